/** What can be done with a strand: the mark that drags its row and opens its menu, and the menu's items. */
import { useDraggable } from '@dnd-kit/core';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { strandsOf, type Strand } from '../../../core/effect/schema.js';
import { OUTPUTS, outputRecord } from '../../../core/effect/outputs.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { group, unfoldUse, unfoldedFrom } from '../../../session/motifs.js';
import { motifOf } from '../../../core/effect/motifs.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { takesAs } from '../../../core/operators/record.js';
import { waysInto } from '../../../core/effect/feeding.js';
import {
  bypass,
  duplicate,
  fold,
  knownRange,
  link,
  moveBy,
  read,
  remove,
  runWith,
  section,
  swap,
  unfold,
  wrap,
} from '../../../session/actions.js';
import { copyByMenu, cutByMenu, pasteByMenu } from './clipboard.js';
import { shortNumber } from './layout.js';
import { useBench, useBenchState } from '../../context.js';
import { MenuContent } from '../../ui/Menu.js';

/** Which menu of a row is open. */
export type RowMenu = 'all' | 'feed' | 'wrap' | null;

interface AllProps {
  readonly strand: Strand;
  readonly rank: number;
  readonly onRename: (on: boolean) => void;
  readonly onReplace: () => void;
}

/** The items of a menu. */
export function RowMenuItems({ menu, strand, rank, onRename, onReplace }: AllProps & { menu: RowMenu }) {
  if (menu === 'feed') return <FeedItems strand={strand} />;
  if (menu === 'wrap') return <WrapItems strand={strand} />;
  return <AllItems strand={strand} rank={rank} onRename={onRename} onReplace={onReplace} />;
}

interface HandleProps {
  readonly strand: Strand;
  readonly shown: boolean;
  readonly reachable: boolean;
  readonly menu: RowMenu;
  readonly onMenu: (menu: RowMenu) => void;
  readonly children: ReactNode;
}

/** The drag mark; pressed without dragging it opens the menu that does the same and more. */
export function Handle({ strand, shown, reachable, menu, onMenu, children }: HandleProps) {
  const { attributes, listeners, setNodeRef } = useDraggable({ id: strand.id });
  return (
    <DropdownMenu.Root open={menu !== null} onOpenChange={(open) => !open && onMenu(null)}>
      <DropdownMenu.Trigger asChild>
        <button
          ref={setNodeRef}
          {...attributes}
          {...listeners}
          className={`absolute top-[2px] right-0 flex h-6 w-[16px] touch-none items-center justify-center ${shown || menu !== null ? '' : 'opacity-0'}`}
          tabIndex={reachable ? 0 : -1}
          role="button"
          aria-label={`${strand.name}: actions; drag to move`}
          title="Actions; drag to move"
          onClick={() => onMenu('all')}
          onKeyDown={(e) => {
            if (e.key === 'Enter' || e.key === ' ') {
              e.preventDefault();
              e.stopPropagation();
              onMenu('all');
            }
          }}
          onPointerDown={(e) => {
            listeners?.onPointerDown?.(e);
            // The menu opens on release, so that a drag does not open it.
            e.preventDefault();
          }}
        >
          <svg width={6} height={12} viewBox="0 0 6 12" fill="var(--color-muted)" aria-hidden>
            {[1, 5, 9].flatMap((y) => [0, 4].map((x) => <rect key={`${x} ${y}`} x={x} y={y} width={2} height={2} />))}
          </svg>
        </button>
      </DropdownMenu.Trigger>
      <MenuContent
        className="min-w-[200px]"
        align="end"
        sideOffset={2}

        onCloseAutoFocus={(e) => {
          e.preventDefault();
          // It closes late: where somebody is typing by then, in a name or in the picker, the focus is theirs.
          if (!document.activeElement?.matches('input')) document.querySelector<HTMLElement>('[data-strand][data-lit]')?.focus();
        }}
      >
        {children}
      </MenuContent>
    </DropdownMenu.Root>
  );
}

function Item({
  onSelect,
  keys,
  disabled = false,
  children,
}: {
  onSelect: () => void;
  keys?: string;
  disabled?: boolean;
  children: ReactNode;
}) {
  return (
    <DropdownMenu.Item className="menu-item" onSelect={onSelect} disabled={disabled}>
      {children}
      {keys && <kbd className="ml-auto">{keys}</kbd>}
    </DropdownMenu.Item>
  );
}

/** Outputs this strand can drive, then inputs of strands below. */
function FeedItems({ strand }: { strand: Strand }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const readings = useBenchState((s) => s.readings);
  const kind = readings.get(strand.id)?.kind ?? '1';
  const ways = OUTPUTS[effect.kind].flatMap((output) => {
    const [way] = waysInto(outputRecord(output), { from: strand.id }, kind);
    return way ? [{ output, way }] : [];
  });
  const strands = strandsOf(effect);
  const below = strands.slice(strands.findIndex((s) => s.id === strand.id) + 1);
  return (
    <>
      <DropdownMenu.Label className="menu-label">Feed {strand.name} into</DropdownMenu.Label>
      {[...ways.filter(({ way }) => way.text === ''), ...ways.filter(({ way }) => way.text !== '')].map(({ output, way }) => (
        <Item key={output} onSelect={() => read(session, { output }, way)}>
          {outputRecord(output).label}
          {way.text !== '' && <span className="text-muted">{way.text}</span>}
        </Item>
      ))}
      {below.flatMap((s) =>
        Object.entries(recordOf(effect, s).inputs)
          .filter(([, r]) => r.literal === undefined && takesAs(r, kind) !== 'no')
          .map(([name, { label }]) => (
            <Item key={`${s.id}.${name}`} onSelect={() => link(session, s.id, name, { from: strand.id })}>
              {s.name}
              <span className="text-muted">{label ?? name}</span>
            </Item>
          )),
      )}
    </>
  );
}

function WrapItems({ strand }: { strand: Strand }) {
  const session = useBench();
  const readings = useBenchState((s) => s.readings);
  const range = knownRange({ readings }, strand.id);
  return (
    <>
      <DropdownMenu.Label className="menu-label">Wrap {strand.name}</DropdownMenu.Label>
      <Item onSelect={() => wrap(session, strand.id, 'invert')}>Invert: 1 − {strand.name}</Item>
      <Item onSelect={() => wrap(session, strand.id, 'clamp')}>Clamp to 0..1</Item>
      <Item disabled={!range} onSelect={() => wrap(session, strand.id, 'unit')}>
        To 0..1
        <span className="text-muted">
          {range ? `from ${shortNumber(range[0])} .. ${shortNumber(range[1])}` : 'of no known range'}
        </span>
      </Item>
      <Item onSelect={() => wrap(session, strand.id, 'dial')}>Multiply by a new dial</Item>
    </>
  );
}

function MotifItems({ strand, several }: { strand: Strand; several: boolean }) {
  const session = useBench();
  const ids = runWith(session, strand.id);
  const before = useBenchState((s) => (s.unfolded ? unfoldedFrom(session, ids) : null));
  const use = useBenchState((s) => motifOf(s.effect, strand) !== undefined);
  return (
    <>
      {before && (
        <Item keys="M" onSelect={() => group(session, ids)}>
          Put back into {before.name}
        </Item>
      )}
      {(several || before) && (
        <Item {...(before ? {} : { keys: 'M' })} onSelect={() => group(session, ids, true)}>
          Make a motif of {ids.length === 1 ? 'it' : 'them'}
        </Item>
      )}
      {use && !several && (
        <Item keys="U" onSelect={() => unfoldUse(session, strand.id)}>
          Unfold here
        </Item>
      )}
    </>
  );
}

/** What it may be fed into, and wrapped in. */
function Submenus({ strand }: { strand: Strand }) {
  return (
    <>
      <DropdownMenu.Sub>
        <DropdownMenu.SubTrigger className="menu-item">
          Feed into <kbd className="ml-auto">F</kbd>
        </DropdownMenu.SubTrigger>
        <DropdownMenu.Portal>
          <DropdownMenu.SubContent className="menu min-w-[180px]" collisionPadding={8}>
            <FeedItems strand={strand} />
          </DropdownMenu.SubContent>
        </DropdownMenu.Portal>
      </DropdownMenu.Sub>
      <DropdownMenu.Sub>
        <DropdownMenu.SubTrigger className="menu-item">
          Wrap <kbd className="ml-auto">W</kbd>
        </DropdownMenu.SubTrigger>
        <DropdownMenu.Portal>
          <DropdownMenu.SubContent className="menu min-w-[180px]" collisionPadding={8}>
            <WrapItems strand={strand} />
          </DropdownMenu.SubContent>
        </DropdownMenu.Portal>
      </DropdownMenu.Sub>
    </>
  );
}

function AllItems({ strand, rank, onRename, onReplace }: AllProps) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const several = useBenchState((s) => s.run.length > 1 && s.run.includes(strand.id));
  const inputs = Object.keys(operatorOf(strand.op).inputs).length;
  return (
    <>
      <Item keys="R" onSelect={() => requestAnimationFrame(() => onRename(true))}>
        Rename
      </Item>
      <Item keys="O" onSelect={() => requestAnimationFrame(onReplace)}>
        Another operation
      </Item>
      <Item keys="H" onSelect={() => requestAnimationFrame(() => session.store.setState({ help: strand.id }))}>
        What it does
      </Item>
      <Item keys="B" onSelect={() => bypass(session, runWith(session, strand.id))}>
        {strand.bypassed ? 'Use again' : 'Bypass'}
      </Item>
      <Item keys="S" disabled={inputs < 2} onSelect={() => swap(session, strand.id)}>
        Swap the first two inputs
      </Item>
      <Item keys="Alt ↑" disabled={rank === 0} onSelect={() => moveBy(session, runWith(session, strand.id), -1)}>
        Move up
      </Item>
      <Item
        keys="Alt ↓"
        disabled={rank === effect.strands.length - 1}
        onSelect={() => moveBy(session, runWith(session, strand.id), 1)}
      >
        Move down
      </Item>
      <Item keys="G" onSelect={() => section(session, runWith(session, strand.id))}>
        {several ? 'Make a section of them' : 'Begin a section here'}
      </Item>
      <MotifItems strand={strand} several={several} />
      {several ? (
        <Item onSelect={() => fold(session, runWith(session, strand.id))}>Make one formula of them</Item>
      ) : (
        operatorOf(strand.op).literals.formula && (
          <Item keys="U" onSelect={() => unfold(session, strand.id)}>
            Unfold into strands
          </Item>
        )
      )}
      <Item keys="D" onSelect={() => void duplicate(session, runWith(session, strand.id))}>
        Duplicate
      </Item>
      <Item keys="Ctrl C" onSelect={() => void copyByMenu(session, runWith(session, strand.id))}>
        Copy
      </Item>
      <Item keys="Ctrl X" onSelect={() => void cutByMenu(session, runWith(session, strand.id))}>
        Cut
      </Item>
      <Item keys="Ctrl V" onSelect={() => void pasteByMenu(session)}>
        Paste under it
      </Item>
      <Submenus strand={strand} />
      <Item keys="Delete" onSelect={() => remove(session, runWith(session, strand.id))}>
        Delete
      </Item>
    </>
  );
}
