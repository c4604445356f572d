/** All that a stage has, in one list: its props by their groups, lights, surroundings, viewpoints and mote fields. */
import {
  Activity,
  Aperture,
  Box,
  Camera,
  Eye,
  EyeOff,
  Lightbulb,
  Lock,
  Paintbrush,
  Plus,
  Shapes,
  Sparkles,
  Sun,
  Waves,
  type LucideIcon,
} from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useRef, useState, type ReactNode } from 'react';
import { LIGHTS, PRIMITIVES, propOf } from '../../core/scene/edits.js';
import { paceOf } from '../../core/scene/motes.js';
import type { Prop } from '../../core/scene/stage.js';
import { newLight } from '../../session/lighting.js';
import { newMotes } from '../../session/motes.js';
import { addPrimitive } from '../../session/standing.js';
import { propInHand } from '../../session/state.js';
import { useBench, useBenchState } from '../context.js';
import { MeshFileInput } from '../stage/MeshFile.js';
import { PropNumbers } from '../stage/PropNumbers.js';
import { MenuContent } from '../ui/Menu.js';
import { NameField } from '../ui/NameField.js';
import type { Chosen } from './chosen.js';

interface Props {
  readonly chosen: Chosen;
  readonly onChoose: (chosen: Chosen) => void;
  readonly onFile: (files: readonly File[]) => void;
}

export function RoomList({ chosen, onChoose, onFile }: Props) {
  const inHand = useBenchState(propInHand);
  return (
    <aside className="flex min-h-0 flex-col border-r border-line bg-panel" aria-label="What stands on the stage">
      <div className="flex h-9 shrink-0 items-center justify-between pr-2 pl-4">
        <h2 className="head text-[14px] leading-5">Stage</h2>
        <Add onChoose={onChoose} onFile={onFile} />
      </div>
      <div className="scroll min-h-0 grow overflow-y-auto pb-2">
        <Props chosen={chosen} onChoose={onChoose} />
        <Lights chosen={chosen} onChoose={onChoose} />
        <Around chosen={chosen} onChoose={onChoose} />
        <Viewpoints chosen={chosen} onChoose={onChoose} />
        <Motes chosen={chosen} onChoose={onChoose} />
      </div>
      {chosen.kind === 'prop' && inHand && (
        <div className="shrink-0 px-4 pb-3">
          <PropNumbers prop={inHand} narrow />
        </div>
      )}
    </aside>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h3 className="head flex h-7 items-center gap-2 px-4 text-[12px]">
        {title}
        <span className="h-px grow bg-line" aria-hidden />
      </h3>
      <ul>{children}</ul>
    </section>
  );
}

interface RowProps {
  readonly icon: LucideIcon;
  readonly name: string;
  readonly on: boolean;
  readonly faint?: boolean;
  readonly inset?: boolean;
  readonly note?: ReactNode;
  readonly title?: string;
  readonly onChoose: () => void;
  /** Pressed again, it is renamed, where it can be. */
  readonly onName?: (name: string) => void;
  readonly children?: ReactNode;
}

function Row({ icon: Icon, name, on, faint = false, inset = false, note, title, onChoose, onName, children }: RowProps) {
  const [naming, setNaming] = useState(false);
  return (
    <li
      className={`group flex h-7 items-center gap-2 pr-3 ${inset ? 'pl-7' : 'pl-4'} ${on ? 'bg-raised' : 'hover:bg-[#201c2a]'}`}
    >
      <Icon size={14} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />
      {naming && onName ? (
        <NameField
          label={`Name of ${name}`}
          was={name}
          onName={(typed) => {
            setNaming(false);
            if (typed) onName(typed);
          }}
          onLeave={() => setNaming(false)}
        />
      ) : (
        <button
          className={`min-w-0 grow truncate rounded-sm text-left leading-6 ${faint ? 'text-muted' : ''}`}
          aria-current={on ? 'true' : undefined}
          title={title ?? (on && onName ? 'Rename' : undefined)}
          onClick={() => (on && onName ? setNaming(true) : onChoose())}
        >
          {name}
        </button>
      )}
      {note !== undefined && <span className="max-w-[84px] shrink-0 truncate text-[12px] text-muted">{note}</span>}
      {children}
    </li>
  );
}

/** Shown by itself where it says something, and on hover and focus where it only offers. */
function RowButton({
  quiet,
  label,
  onPress,
  children,
}: {
  quiet: boolean;
  label: string;
  onPress: () => void;
  children: ReactNode;
}) {
  return (
    <button
      className={`plain -mr-1 h-6 w-6 min-w-6 ${quiet ? 'opacity-0 group-hover:opacity-100 focus-visible:opacity-100' : ''}`}
      aria-label={label}
      title={label}
      onClick={onPress}
    >
      {children}
    </button>
  );
}

interface Together {
  readonly group: string | null;
  readonly props: readonly Prop[];
}

/** Props one after the other; those of a group together where the first of them stands. */
function inGroups(props: readonly Prop[]): Together[] {
  const seen = new Set<string>();
  return props.flatMap((p): Together[] => {
    if (p.group === null) return [{ group: null, props: [p] }];
    if (seen.has(p.group)) return [];
    seen.add(p.group);
    return [{ group: p.group, props: props.filter((o) => o.group === p.group) }];
  });
}

function Props({ chosen, onChoose }: Omit<Props, 'onFile'>) {
  const props = useBenchState((s) => s.stage.props);
  return (
    <Section title="Props">
      {inGroups(props).map(({ group, props: some }) =>
        group === null ? (
          <PropRow key={some[0]!.id} prop={some[0]!} chosen={chosen} onChoose={onChoose} />
        ) : (
          <li key={`group ${group}`} role="group" aria-label={`Group ${group}`}>
            <p className="flex h-6 items-center justify-between px-4 text-[12px] text-muted">
              {group} <span className="num">×{some.length}</span>
            </p>
            <ul>
              {some.map((p) => (
                <PropRow key={p.id} prop={p} inset chosen={chosen} onChoose={onChoose} />
              ))}
            </ul>
          </li>
        ),
      )}
    </Section>
  );
}

function PropRow({ prop, chosen, onChoose, inset = false }: Omit<Props, 'onFile'> & { prop: Prop; inset?: boolean }) {
  const session = useBench();
  const inHand = useBenchState((s) => propInHand(s)?.id);
  const { id, name, visible, locked, paint, source } = prop;
  const change = (label: string, recipe: (p: Prop) => void) =>
    session.documents.editStage(`${label} ${name}`, (d) => recipe(propOf(d, id)));
  const Seen = visible ? Eye : EyeOff;
  return (
    <Row
      icon={'asset' in source ? Shapes : Box}
      name={name}
      inset={inset}
      on={chosen.kind === 'prop' && inHand === id}
      faint={!visible}
      onChoose={() => {
        session.choosing.hand(id);
        onChoose({ kind: 'prop' });
      }}
      onName={(typed) => change('Rename', (p) => void (p.name = typed.slice(0, 80)))}
    >
      {paint !== null && (
        <span className="shrink-0 text-muted" title="It is painted">
          <Paintbrush size={13} strokeWidth={1.5} aria-hidden />
          <span className="sr-only">painted</span>
        </span>
      )}
      {locked && <Lock size={12} strokeWidth={1.5} className="shrink-0 text-muted" aria-label="locked" />}
      <RowButton
        quiet={visible}
        label={visible ? `Hide ${name}` : `Show ${name}`}
        onPress={() => change(visible ? 'Hide' : 'Show', (p) => void (p.visible = !visible))}
      >
        <Seen size={14} strokeWidth={1.5} aria-hidden />
      </RowButton>
    </Row>
  );
}

function Lights({ chosen, onChoose }: Omit<Props, 'onFile'>) {
  const { choosing, documents } = useBench();
  const lights = useBenchState((s) => s.stage.lights);
  const here = useBenchState((s) => s.effect);
  return (
    <Section title="Lights">
      {lights.map(({ id, name, kind, drivenBy }) => {
        const by = drivenBy && (drivenBy.effect === here.id ? here.name : choosing.nameOf(drivenBy.effect));
        return (
          <Row
            key={id}
            icon={by ? Activity : kind === 'point' || kind === 'spot' ? Lightbulb : Sun}
            name={name}
            note={by ?? undefined}
            title={by ? `${name} follows ${by}` : undefined}
            on={chosen.kind === 'light' && chosen.id === id}
            onChoose={() => onChoose({ kind: 'light', id })}
            onName={(typed) =>
              documents.editStage(`Rename ${name}`, (d) => void (d.lights.find((l) => l.id === id)!.name = typed.slice(0, 80)))
            }
          />
        );
      })}
    </Section>
  );
}

function Around({ chosen, onChoose }: Omit<Props, 'onFile'>) {
  const stage = useBenchState((s) => s.stage);
  const floor = stage.ground.on ? (stage.ground.wall ? 'floor and wall' : 'floor') : undefined;
  return (
    <Section title="Surroundings">
      <Row
        icon={Waves}
        name="All around"
        note={floor}
        on={chosen.kind === 'around'}
        onChoose={() => onChoose({ kind: 'around' })}
      />
      <Row
        icon={Aperture}
        name="Optics"
        note={<span className="num">{stage.optics.exposure.toFixed(1)} EV</span>}
        on={chosen.kind === 'optics'}
        onChoose={() => onChoose({ kind: 'optics' })}
      />
    </Section>
  );
}

function Viewpoints({ chosen, onChoose }: Omit<Props, 'onFile'>) {
  const { frames, documents } = useBench();
  const viewpoints = useBenchState((s) => s.stage.viewpoints);
  const now = useBenchState((s) => s.viewpoint);
  return (
    <Section title="Viewpoints">
      {viewpoints.map(({ id, name }) => (
        <Row
          key={id}
          icon={Camera}
          name={name}
          on={chosen.kind === 'viewpoint' && chosen.id === id}
          note={id === now ? 'now' : undefined}
          title={`Look from ${name}`}
          onChoose={() => {
            frames.lookFrom(id);
            onChoose({ kind: 'viewpoint', id });
          }}
          onName={(typed) =>
            documents.editStage(`Rename ${name}`, (d) => void (d.viewpoints.find((v) => v.id === id)!.name = typed.slice(0, 80)))
          }
        />
      ))}
    </Section>
  );
}

function Motes({ chosen, onChoose }: Omit<Props, 'onFile'>) {
  const motes = useBenchState((s) => s.stage.motes);
  const loop = useBenchState((s) => s.effect.loop);
  if (motes.length === 0) return null;
  return (
    <Section title="Mote fields">
      {motes.map((field) => (
        <Row
          key={field.id}
          icon={Sparkles}
          name={field.name}
          faint={!field.visible}
          note={<span className="num">{paceOf(field, loop).count}</span>}
          on={chosen.kind === 'motes' && chosen.id === field.id}
          onChoose={() => onChoose({ kind: 'motes', id: field.id })}
        />
      ))}
    </Section>
  );
}

function Add({ onChoose, onFile }: Omit<Props, 'chosen'>) {
  const session = useBench();
  const file = useRef<HTMLInputElement>(null);
  const prop = (add: () => void) => {
    add();
    onChoose({ kind: 'prop' });
  };
  return (
    <>
      <MeshFileInput input={file} onFile={onFile} />
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button className="plain px-1.5 text-ink" aria-label="Add to the stage">
            <Plus size={15} strokeWidth={1.5} aria-hidden />
            Add
          </button>
        </DropdownMenu.Trigger>
        <MenuContent align="end">
          <DropdownMenu.Item className="menu-item" onSelect={() => file.current?.click()}>
            A mesh of your own…
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          {PRIMITIVES.map((primitive) => (
            <DropdownMenu.Item
              key={primitive.name}
              className="menu-item"
              onSelect={() => prop(() => addPrimitive(session, primitive))}
            >
              {primitive.name}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          {LIGHTS.map(({ kind, name }) => (
            <DropdownMenu.Item
              key={kind}
              className="menu-item"
              onSelect={() => {
                const id = newLight(session, kind);
                if (id !== null) onChoose({ kind: 'light', id });
              }}
            >
              {name}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item
            className="menu-item"
            onSelect={() => {
              const id = newMotes(session);
              if (id !== null) onChoose({ kind: 'motes', id });
            }}
          >
            Motes
          </DropdownMenu.Item>
        </MenuContent>
      </DropdownMenu.Root>
    </>
  );
}
