/** The mote fields of a stage: which effect they wear, where motes are born, how many, and which way they go. */
import { ChevronDown, ChevronRight, Eye, EyeOff, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { changeMotes, deleteMotes } from '../../core/scene/edits.js';
import { mostOf, paceOf, type MoteField } from '../../core/scene/motes.js';
import { newMotes } from '../../session/motes.js';
import { numbersOf } from '../../core/scene/worn.js';
import { useEffects } from '../data/library.js';
import { SeedRow, SelectRow, SettingRow } from '../ui/SettingRow.js';
import { Three } from '../ui/Three.js';
import { useBench, useBenchState } from '../context.js';
import { useStage } from './useStage.js';

/** @param first which is opened at first */
export function MotesOfStage({ first = null }: { first?: string | null }) {
  const session = useBench();
  const { stage } = useStage();
  const [opened, setOpened] = useState(first);
  return (
    <section aria-label="Motes">
      <div className="flex h-8 items-center justify-between border-t border-line">
        <h3 className="head text-[13px]">Motes</h3>
        <button
          className="plain gap-1 px-1"
          aria-label="Add motes"
          onClick={() => {
            const id = newMotes(session);
            if (id !== null) setOpened(id);
          }}
        >
          <Plus size={14} strokeWidth={1.5} aria-hidden />
          Add
        </button>
      </div>
      {stage.motes.map((field) => (
        <FieldRows key={field.id} field={field} open={opened === field.id} onOpen={(on) => setOpened(on ? field.id : null)} />
      ))}
    </section>
  );
}

/** Sets a field's numbers; the steps of one drag are one. */
function useField({ id, name }: MoteField) {
  const { change, done } = useStage();
  const set = (what: string, to: Partial<MoteField>) => change(`${name}: ${what}`, (d) => changeMotes(d, { id, to }));
  return { set, done };
}

function FieldRows({ field, open, onOpen }: { field: MoteField; open: boolean; onOpen: (on: boolean) => void }) {
  const { id, name, visible } = field;
  const { change } = useStage();
  const { set } = useField(field);
  const loop = useBenchState((s) => s.effect.loop);
  const { count } = paceOf(field, loop);
  const [Fold, Seen] = [open ? ChevronDown : ChevronRight, visible ? Eye : EyeOff];
  return (
    <div data-motes={id} className={open ? '-mx-2 rounded-sm bg-raised px-2' : ''}>
      <div className="flex h-8 items-center gap-1">
        <button
          className="plain -ml-1 min-w-0 grow justify-start gap-0.5 px-0"
          aria-expanded={open}
          aria-label={`${name}: settings`}
          onClick={() => onOpen(!open)}
        >
          <Fold size={12} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />
          <span className={`truncate ${visible ? 'text-ink' : 'text-muted'}`}>{name}</span>
          <span className="num ml-auto shrink-0 text-muted">{count}</span>
        </button>
        <button
          className="plain"
          aria-label={visible ? `Hide ${name}` : `Show ${name}`}
          onClick={() => set(visible ? 'hide' : 'show', { visible: !visible })}
        >
          <Seen size={14} strokeWidth={1.5} aria-hidden />
        </button>
        <button
          className="plain"
          aria-label={`Delete ${name}`}
          title="Delete"
          onClick={() => change(`Delete ${name}`, (d) => deleteMotes(d, { id }))}
        >
          <Trash2 size={14} strokeWidth={1.5} aria-hidden />
        </button>
      </div>
      {open && <Settings field={field} />}
    </div>
  );
}

/** What a new place to be born has, by its kind. */
const BORN: Readonly<Record<'box' | 'ball', MoteField['from']>> = {
  box: { kind: 'box', size: [2, 1.5, 2] },
  ball: { kind: 'ball', radius: 0.5 },
};
const SHAPES: Readonly<Record<Exclude<MoteField['shape']['kind'], 'copies'>, MoteField['shape']>> = {
  round: { kind: 'round' },
  square: { kind: 'square' },
  streak: { kind: 'streak', seconds: 0.1 },
};

/** A number of a field: where it is, how it is set, how far a slider goes and how far it may. */
interface NumberOf {
  readonly label: string;
  readonly unit?: string;
  readonly step?: number;
  readonly soft: readonly [number, number];
  readonly hard: readonly [number, number];
  readonly of: (field: MoteField) => number;
  readonly to: (v: number, field: MoteField) => Partial<MoteField>;
}
const plain = (
  key: 'rate' | 'life' | 'lifeSpread' | 'size' | 'sizeSpread' | 'speed' | 'spread' | 'gravity' | 'spin' | 'soft',
  label: string,
  soft: readonly [number, number],
  hard: readonly [number, number],
  more: { unit?: string; step?: number } = {},
): NumberOf => ({ label, soft, hard, of: (f) => f[key], to: (v) => ({ [key]: v }), ...more });
const swirl = (
  key: keyof MoteField['drift'],
  label: string,
  soft: readonly [number, number],
  hard: readonly [number, number],
  unit = '',
): NumberOf => ({
  ...{ label, soft, hard, unit },
  of: (f) => f.drift[key],
  to: (v, f) => ({ drift: { ...f.drift, [key]: v } }),
});

const NUMBERS: readonly NumberOf[] = [
  plain('rate', 'Rate', [0, 400], [0, 1e6], { unit: '/s', step: 1 }),
  plain('life', 'Life', [0.2, 20], [0.01, 3600], { unit: 's', step: 0.1 }),
  plain('lifeSpread', 'Lives differ', [0, 1], [0, 1]),
  plain('size', 'Radius', [0.002, 0.1], [1e-5, 100], { unit: 'm', step: 0.001 }),
  plain('sizeSpread', 'Radii differ', [0, 1], [0, 1]),
  plain('speed', 'Speed, m/s', [0, 4], [-1000, 1000]),
  plain('spread', 'Every way', [0, 1], [0, 1]),
  plain('gravity', 'Falls, m/s²', [-2, 10], [-1000, 1000], { step: 0.1 }),
  swirl('strength', 'Swirls', [0, 1], [-100, 100], 'm'),
  swirl('scale', 'Swirls’ size', [0.1, 4], [0.01, 1000], 'm'),
  swirl('pace', 'Swirls change', [0, 1], [-100, 100]),
  plain('spin', 'Spin', [-2, 2], [-1000, 1000], { unit: 'Hz' }),
  plain('soft', 'Soft at surfaces', [0, 0.5], [0, 10], { unit: 'm' }),
];

function Numbers({ field, numbers }: { field: MoteField; numbers: readonly NumberOf[] }) {
  const { set, done } = useField(field);
  return numbers.map(({ label, of, to, step = 0.01, ...more }) => (
    <SettingRow
      key={label}
      {...{ label, step, ...more }}
      value={of(field)}
      onChange={(v) => set(label.toLowerCase(), to(v, field))}
      onDone={done}
    />
  ));
}

function Settings({ field }: { field: MoteField }) {
  const { set, done } = useField(field);
  const loop = useBenchState((s) => s.effect.loop);
  const { wanted } = paceOf(field, loop);
  return (
    <div className="pb-1 pl-3">
      {field.shape.kind !== 'copies' && <Wears field={field} />}
      <Born field={field} />
      <Three
        label={`${field.name} place`}
        name="Place, m"
        values={field.place}
        onChange={(place) => set('place', { place })}
        onDone={done}
      />
      {wanted > mostOf(field) && (
        <p className="border-l-2 border-caution pl-2 text-[12px] leading-4">
          A field holds {mostOf(field).toLocaleString('en')} {field.shape.kind === 'copies' ? 'copies ' : ''}at once; this one
          asks for {wanted.toLocaleString('en')}.
        </p>
      )}
      <Numbers field={field} numbers={NUMBERS} />
      <Shape field={field} />
      <Bursts field={field} />
      <SeedRow label={`${field.name} seed`} seed={field.seed} onChange={(seed) => set('seed', { seed })} onDone={done} />
    </div>
  );
}

function Wears({ field }: { field: MoteField }) {
  const effects = useEffects();
  const bench = useBenchState((s) => s.effect);
  const { set } = useField(field);
  const known = (effects.data ?? []).filter((e) => e.kind === 'mote' && e.id !== bench.id);
  const wearable = [
    { id: '', name: 'Nothing' },
    ...(bench.kind === 'mote' ? [{ id: bench.id, name: bench.name }] : []),
    ...known.map(({ id, name }) => ({ id, name })),
  ];
  const now = field.effect ?? '';
  return (
    <SelectRow
      name="Wear"
      label={`${field.name} wear`}
      value={now}
      choices={wearable.some((w) => w.id === now) ? wearable : [...wearable, { id: now, name: 'An effect that is gone' }]}
      onChoose={(id) => set('effect', { effect: id === '' ? null : id, variant: null })}
    />
  );
}

function Born({ field }: { field: MoteField }) {
  const { stage } = useStage();
  const { set, done } = useField(field);
  const { from } = field;
  const props = stage.props.map((p) => ({ id: `prop ${p.id}`, name: `On ${p.name}` }));
  const path = from.kind === 'path' ? [{ id: 'path', name: 'Along a path' }] : [];
  const radius: NumberOf = {
    ...{ label: 'Radius of it', unit: 'm', soft: [0.05, 4], hard: [0.001, 1000] },
    of: (f) => (f.from.kind === 'ball' ? f.from.radius : 0),
    to: (v) => ({ from: { kind: 'ball', radius: v } }),
  };
  return (
    <>
      <SelectRow
        name="Born"
        label={`${field.name} are born`}
        value={from.kind === 'prop' ? `prop ${from.prop}` : from.kind}
        choices={[{ id: 'box', name: 'In a box' }, { id: 'ball', name: 'In a ball' }, ...props, ...path]}
        onChoose={(id) => {
          if (id === from.kind) return;
          const to = id.startsWith('prop ') ? { kind: 'prop' as const, prop: id.slice(5) } : BORN[id as 'box' | 'ball'];
          set('born', { from: to });
        }}
      />
      {from.kind === 'box' && (
        <Three
          label={`${field.name} box`}
          name="Size of it, m"
          values={from.size}
          low={0.001}
          onChange={(size) => set('box', { from: { kind: 'box', size } })}
          onDone={done}
        />
      )}
      {from.kind === 'ball' && <Numbers field={field} numbers={[radius]} />}
      {from.kind === 'prop' && <BornWhere field={field} />}
    </>
  );
}

const ABOVE: NumberOf = {
  ...{ label: 'Above', soft: [0, 1], hard: [-1e9, 1e9] },
  of: (f) => (f.from.kind === 'prop' ? (f.from.where?.above ?? 0) : 0),
  to: (v, f) => (f.from.kind === 'prop' && f.from.where ? { from: { ...f.from, where: { ...f.from.where, above: v } } } : {}),
};

/** Only where and when a strand of what the prop wears is above a level. */
function BornWhere({ field }: { field: MoteField }) {
  const { compiling } = useBench();
  const { set } = useField(field);
  const { from } = field;
  if (from.kind !== 'prop') return null;
  const worn = compiling.worn.on(from.prop);
  const strands = worn ? numbersOf(worn) : [];
  const { where } = from;
  const now = where ? (where.port === undefined ? where.strand : `${where.strand} ${where.port}`) : '';
  const gone = now === '' || strands.some((s) => s.id === now) ? [] : [{ id: now, name: 'A strand' }];
  if (strands.length + gone.length === 0) return null;
  return (
    <>
      <SelectRow
        name="Where"
        label={`${field.name} where`}
        value={now}
        choices={[{ id: '', name: 'Everywhere' }, ...strands, ...gone]}
        onChoose={(id) => {
          const [strand, port] = id.split(' ') as [string, string?];
          const chosen = { strand, ...(port === undefined ? {} : { port }), above: where?.above ?? 0.5 };
          set('where', { from: { kind: 'prop', prop: from.prop, ...(id === '' ? {} : { where: chosen }) } });
        }}
      />
      {where && <Numbers field={field} numbers={[ABOVE]} />}
    </>
  );
}

const STREAK: NumberOf = {
  ...{ label: 'As long as', unit: 's', soft: [0, 0.5], hard: [0, 10] },
  of: (f) => (f.shape.kind === 'streak' ? f.shape.seconds : 0),
  to: (v) => ({ shape: { kind: 'streak', seconds: v } }),
};

function Shape({ field }: { field: MoteField }) {
  const { set } = useField(field);
  const { stage } = useStage();
  const { shape } = field;
  const copies = stage.props
    .filter((p) => !p.locked)
    .map((p) => ({ id: `copies ${p.id}`, name: `Copies of ${p.group ?? p.name}`, group: p.group }));
  // One entry a group.
  const offered = copies.filter((c, k) => c.group === null || copies.findIndex((o) => o.group === c.group) === k);
  const now = shape.kind === 'copies' ? `copies ${shape.prop}` : shape.kind;
  return (
    <>
      <SelectRow
        name="Shape"
        label={`${field.name} shape`}
        value={now}
        choices={[
          { id: 'round', name: 'Round' },
          { id: 'square', name: 'The whole sheet' },
          { id: 'streak', name: 'A streak along its way' },
          ...offered,
          ...(offered.some((o) => o.id === now) || shape.kind !== 'copies' ? [] : [{ id: now, name: 'Copies of a prop' }]),
        ]}
        onChoose={(id) =>
          set('shape', {
            shape: id.startsWith('copies ') ? { kind: 'copies', prop: id.slice(7) } : SHAPES[id as keyof typeof SHAPES],
          })
        }
      />
      {shape.kind === 'streak' && <Numbers field={field} numbers={[STREAK]} />}
    </>
  );
}

const BURST: NumberOf = {
  ...{ label: 'At once', step: 1, soft: [0, 200], hard: [0, 5000] },
  of: (f) => f.burst?.count ?? 0,
  to: (v, f) => ({ burst: f.burst && { ...f.burst, count: Math.round(v) } }),
};

/** How many are born at once whenever a trigger of the effect is fired. */
function Bursts({ field }: { field: MoteField }) {
  const { set } = useField(field);
  const bench = useBenchState((s) => s.effect);
  const { burst } = field;
  const triggers = bench.id === field.effect ? bench.triggers.map(({ id, name }) => ({ id, name })) : [];
  // Of another effect it is not known here by what name.
  const other = burst && !triggers.some((t) => t.id === burst.trigger) ? [{ id: burst.trigger, name: 'A trigger' }] : [];
  if (triggers.length + other.length === 0) return null;
  return (
    <>
      <SelectRow
        name="Bursts"
        label={`${field.name} burst`}
        value={burst?.trigger ?? ''}
        choices={[{ id: '', name: 'Never' }, ...triggers, ...other]}
        onChoose={(id) => set('bursts', { burst: id === '' ? null : { trigger: id, count: burst?.count ?? 40 } })}
      />
      {burst && <Numbers field={field} numbers={[BURST]} />}
    </>
  );
}
