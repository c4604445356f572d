/** One strand: its swatch, name, operation, inputs, range and marks. */
import { useDraggable } from '@dnd-kit/core';
import { EyeOff, CircleAlert } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { memo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { addSection, moveLimits, renameStrand, setOutput } from '../../../core/effect/edits.js';
import { strandsOf, type Strand } from '../../../core/effect/schema.js';
import { OUTPUTS, outputRecord } from '../../../core/effect/outputs.js';
import { hullOf, type StrandReading } from '../../../core/analysis/reading.js';
import { goesInto } from '../../../core/base/kinds.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { bypass, choose, link, moveBy, remove, swap, wrap } from '../../../session/actions.js';
import { useBench, useBenchState } from '../context.js';
import { Chips, type Chip } from './Chips.js';
import { ROW, shortNumber } from './layout.js';
import { KindBox, WhereMark } from './marks.js';
import { OpenedRow } from './OpenedRow.js';
import { PeekButton } from '../PeekButton.js';
import { Swatch } from './Swatch.js';

export type RowMenu = 'all' | 'feed' | 'wrap' | null;

/** What rows ask of their sheet; the same for all of them, always. */
export interface RowActions {
  readonly menu: (id: string, menu: RowMenu) => void;
  readonly rename: (id: string, on: boolean) => void;
  readonly key: (event: KeyboardEvent<HTMLDivElement>, id: string) => void;
  readonly addUnder: (id: string) => void;
}

interface Props {
  readonly strand: Strand;
  readonly chips: readonly Chip[];
  readonly place: number;
  readonly height: number;
  readonly opened: boolean;
  readonly chosen: boolean;
  /** The one row that the Tab key reaches. */
  readonly reachable: boolean;
  readonly reading: StrandReading | undefined;
  readonly problem: string | null;
  readonly renaming: boolean;
  readonly menu: RowMenu;
  readonly actions: RowActions;
}

export const StrandRow = memo(function StrandRow(props: Props) {
  const { strand, chips, place, height, opened, chosen, reachable, reading, problem, renaming, menu, actions } = props;
  const { id } = strand;
  const renders = useRef(0);
  renders.current++;
  const session = useBench();
  const operator = operatorOf(strand.op);
  const [hover, setHover] = useState(false);
  const peeked = useBenchState((s) => s.peek?.of === strand.id);
  const proved = reading?.range && hullOf(reading.range);
  const measured = reading?.measured;
  const range = measured ?? proved;
  const rangeText =
    !range || problem
      ? '–'
      : `${measured ? '≈ ' : ''}${range.low === range.high ? shortNumber(range.low) : `${shortNumber(range.low)} .. ${shortNumber(range.high)}`}`;
  const reads = operator.sign !== undefined;
  return (
    <div
      role="row"
      aria-level={1}
      aria-expanded={opened}
      aria-selected={chosen}
      aria-label={`${strand.name}, ${operator.label}${problem ? `, error: ${problem}` : ''}`}
      tabIndex={reachable ? 0 : -1}
      aria-rowindex={place + 1}
      data-strand={strand.id}
      data-renders={renders.current}
      className={`group relative outline-offset-[-2px] ${chosen || opened ? 'bg-raised' : 'hover:bg-[#201c2a]'} ${strand.bypassed ? 'opacity-60' : ''}`}
      style={{ height }}
      onFocus={(e) => {
        if (e.target === e.currentTarget) choose(session, strand.id);
      }}
      onPointerEnter={() => setHover(true)}
      onPointerLeave={() => setHover(false)}
      onKeyDown={(e) => actions.key(e, id)}
      onDoubleClick={(e) => {
        if (e.currentTarget === e.target || (e.target as HTMLElement).dataset.part === 'name') actions.rename(id, true);
      }}
    >
      <div
        role="gridcell"
        className="absolute inset-x-0 top-0"
        style={{ height: ROW }}
        onClick={(e) => {
          choose(session, strand.id);
          e.currentTarget.parentElement!.focus();
        }}
      >
        <span className="absolute top-[2px] left-11">
          {problem ? (
            <span className="flex h-6 w-8 items-center justify-center rounded-sm border border-fault text-fault">
              <CircleAlert size={14} strokeWidth={1.5} aria-hidden />
            </span>
          ) : (
            <Swatch id={strand.id} rate={reading?.rate} label={strand.name} />
          )}
        </span>
        {renaming ? (
          <RenameField
            name={strand.name}
            onDone={(name) => (
              name !== null &&
                session.documents.edit(`Rename ${strand.name}`, (draft) => renameStrand(draft, { id: strand.id, name })),
              actions.rename(id, false)
            )}
          />
        ) : (
          <span
            data-part="name"
            className="absolute top-1 left-[86px] truncate font-medium"
            style={{ width: 68 }}
            title={strand.note || strand.name}
          >
            {strand.name}
          </span>
        )}
        {!reads && <span className="op absolute top-1 left-[158px] w-[60px] truncate">{operator.label}</span>}
        <Chips chips={chips} op={strand.op} range={rangeText} />
        {(hover || chosen || peeked) && (
          <PeekButton
            of={strand.id}
            name={strand.name}
            tabIndex={chosen ? 0 : -1}
            // On its swatch while it is offered, so that no input is covered; beside the range once it is on.
            className={`absolute top-[2px] z-10 flex h-6 items-center justify-center rounded-sm ${
              peeked
                ? `left-[312px] w-6 text-text ${chosen ? 'bg-raised' : 'bg-panel'}`
                : 'left-11 w-8 bg-base/70 text-text opacity-0 group-hover:opacity-100 focus-visible:opacity-100'
            }`}
          />
        )}
        {strand.bypassed && (
          <EyeOff
            size={14}
            strokeWidth={1.5}
            className="absolute top-[7px] left-[338px] bg-panel text-muted"
            aria-label="bypassed"
          />
        )}
        <span
          data-testid="range"
          className="num absolute top-[6px] right-[58px] text-muted"
          title={
            measured
              ? 'measured: values it has on a small prop, over the loop or 8 s. Nothing it reads bounds it; clamp it to be sure'
              : 'the values it can have, proved'
          }
        >
          {measured && <span className="sr-only">measured </span>}
          {rangeText}
        </span>
        <span className="absolute top-[7px] left-[402px]">{reading && <KindBox kind={reading.kind} />}</span>
        <span className="absolute top-[8px] left-[427px]">{reading && <WhereMark rate={reading.rate} />}</span>
      </div>
      {(hover || chosen) && (
        <button
          className="absolute top-[16px] left-[127px] z-10 flex h-6 w-6 items-center justify-center opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
          style={{ top: ROW - 12 + (height - ROW) }}
          tabIndex={chosen ? 0 : -1}
          aria-label={`Add a strand under ${strand.name}`}
          title="Add a strand here  /"
          onClick={() => actions.addUnder(id)}
        >
          <span className="flex h-4 w-4 items-center justify-center rounded-full border border-edge bg-panel text-[12px] leading-none text-muted">
            +
          </span>
        </button>
      )}
      <Handle strand={strand} shown={hover || chosen} reachable={chosen} menu={menu} onMenu={(what) => actions.menu(id, what)}>
        {menu === 'feed' ? (
          <FeedItems strand={strand} />
        ) : menu === 'wrap' ? (
          <WrapItems strand={strand} />
        ) : (
          <AllItems strand={strand} place={place} onRename={(on) => actions.rename(id, on)} />
        )}
      </Handle>
      {opened && (
        <div className="absolute inset-x-0" style={{ top: ROW }}>
          <OpenedRow strand={strand} />
        </div>
      )}
      {problem && (
        <div
          className="absolute right-3 left-[86px] flex min-h-[38px] flex-col justify-center border-l-2 border-fault pl-2.5 text-[12px] leading-4"
          style={{ bottom: 6 }}
        >
          <span className="text-fault">{problem}</span>
          <span className="text-muted">The stage keeps the last good picture.</span>
        </div>
      )}
    </div>
  );
});

function RenameField({ name, onDone }: { name: string; onDone: (name: string | null) => void }) {
  const [typed, setTyped] = useState(name);
  return (
    <input
      autoFocus
      aria-label={`New name of ${name}`}
      className="field absolute top-[3px] left-[82px] z-10 h-[22px] w-[150px] px-1 font-medium"
      value={typed}
      maxLength={80}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={() => onDone(typed)}
      onClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') onDone(typed);
        if (e.key === 'Escape') onDone(null);
      }}
    />
  );
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
function Handle({ strand, shown, reachable, menu, onMenu, children }: HandleProps) {
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
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className="menu min-w-[200px]"
          align="end"
          sideOffset={2}
          collisionPadding={8}
          onKeyDown={(e) => e.stopPropagation()}
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            const target = document.querySelector<HTMLElement>('[data-strand][aria-selected="true"]');
            if (!target?.querySelector('input:focus')) target?.focus();
          }}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
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
  const strands = strandsOf(effect);
  const below = strands.slice(strands.findIndex((s) => s.id === strand.id) + 1);
  return (
    <>
      <DropdownMenu.Label className="menu-label">Feed {strand.name} into</DropdownMenu.Label>
      {OUTPUTS[effect.kind]
        .filter((name) => goesInto(kind, outputRecord(name).kind))
        .map((name) => (
          <Item
            key={name}
            onSelect={() =>
              session.documents.edit(`Feed ${strand.name} into ${outputRecord(name).label}`, (draft) =>
                setOutput(draft, { name, input: { from: strand.id } }),
              )
            }
          >
            {outputRecord(name).label}
          </Item>
        ))}
      {below.flatMap((s) =>
        Object.entries(operatorOf(s.op).inputs)
          .filter(
            ([, r]) =>
              r.literal === undefined &&
              (r.kind === 'any' || (typeof r.kind === 'string' ? goesInto(kind, r.kind) : r.kind.some((k) => goesInto(kind, k)))),
          )
          .map(([name]) => (
            <Item key={`${s.id}.${name}`} onSelect={() => link(session, s.id, name, { from: strand.id })}>
              {s.name}
              <span className="text-muted">{name}</span>
            </Item>
          )),
      )}
    </>
  );
}

function WrapItems({ strand }: { strand: Strand }) {
  const session = useBench();
  return (
    <>
      <DropdownMenu.Label className="menu-label">Wrap {strand.name}</DropdownMenu.Label>
      <Item onSelect={() => wrap(session, strand.id, 'invert')}>Invert: 1 − {strand.name}</Item>
      <Item onSelect={() => wrap(session, strand.id, 'clamp')}>Clamp to 0..1</Item>
      <Item onSelect={() => wrap(session, strand.id, 'dial')}>Multiply by a new dial</Item>
    </>
  );
}

function AllItems({ strand, place, onRename }: { strand: Strand; place: number; onRename: (on: boolean) => void }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const { lowest, highest } = moveLimits(effect, strand.id);
  const inputs = Object.keys(operatorOf(strand.op).inputs).length;
  return (
    <>
      <Item keys="R" onSelect={() => requestAnimationFrame(() => onRename(true))}>
        Rename
      </Item>
      <Item keys="B" onSelect={() => bypass(session, strand.id)}>
        {strand.bypassed ? 'Use again' : 'Bypass'}
      </Item>
      <Item keys="S" disabled={inputs < 2} onSelect={() => swap(session, strand.id)}>
        Swap the first two inputs
      </Item>
      <Item keys="Alt ↑" disabled={place <= lowest} onSelect={() => moveBy(session, strand.id, -1)}>
        Move up
      </Item>
      <Item keys="Alt ↓" disabled={place >= highest} onSelect={() => moveBy(session, strand.id, 1)}>
        Move down
      </Item>
      <Item
        onSelect={() =>
          session.documents.edit(`A section at ${strand.name}`, (draft) =>
            addSection(draft, { title: strand.name, first: strand.id }),
          )
        }
      >
        Begin a section here
      </Item>
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
      <Item keys="Delete" onSelect={() => remove(session, strand.id)}>
        Delete
      </Item>
    </>
  );
}
