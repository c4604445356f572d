/** The mote fields of a stage: which effect they wear, where motes are born, how many, and which way they go. */
import { ChevronDown, ChevronRight, Eye, EyeOff, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { deleteMotes } from '../../core/scene/edits.js';
import { mostOf, paceOf, type MoteField } from '../../core/scene/motes.js';
import { newMotes } from '../../session/motes.js';
import { useEffects } from '../data/library.js';
import { SeedRow, SelectRow } from '../ui/SettingRow.js';
import { Three } from '../ui/Three.js';
import { useBench, useBenchState } from '../context.js';
import { Born } from './MoteBorn.js';
import { Numbers, useField, type NumberOf } from './MoteNumbers.js';
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

const SHAPES: Readonly<Record<Exclude<MoteField['shape']['kind'], 'copies'>, MoteField['shape']>> = {
  round: { kind: 'round' },
  square: { kind: 'square' },
  streak: { kind: 'streak', seconds: 0.1 },
};

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
