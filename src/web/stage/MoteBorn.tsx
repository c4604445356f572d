/** Where the motes of a field are born: in a box or a ball, along a path, on a prop, and there where a strand is above a level. */
import type { MoteField } from '../../core/scene/motes.js';
import { useBench } from '../context.js';
import { SelectRow } from '../ui/SettingRow.js';
import { Three } from '../ui/Three.js';
import { Numbers, useField, type NumberOf } from './MoteNumbers.js';
import { useStage } from './useStage.js';

/** What a new place to be born has, by its kind. */
const BORN: Readonly<Record<'box' | 'ball' | 'path', MoteField['from']>> = {
  box: { kind: 'box', size: [2, 1.5, 2] },
  ball: { kind: 'ball', radius: 0.5 },
  path: {
    kind: 'path',
    points: [
      [-1, 0, 0],
      [1, 0, 0],
    ],
  },
};
export function Born({ field }: { field: MoteField }) {
  const { stage } = useStage();
  const { set, done } = useField(field);
  const { from } = field;
  const props = stage.props.map((p) => ({ id: `prop ${p.id}`, name: `On ${p.name}` }));
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
        choices={[
          { id: 'box', name: 'In a box' },
          { id: 'ball', name: 'In a ball' },
          { id: 'path', name: 'Along a path' },
          ...props,
        ]}
        onChoose={(id) => {
          if (id === from.kind) return;
          const to = id.startsWith('prop ') ? { kind: 'prop' as const, prop: id.slice(5) } : BORN[id as keyof typeof BORN];
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
      {from.kind === 'path' && <PathRows field={field} points={from.points} />}
      {from.kind === 'prop' && <BornWhere field={field} />}
    </>
  );
}

/** The corners of a path, in the field's own space; as many as it has. */
const MOST_POINTS = 64;

function PathRows({ field, points }: { field: MoteField; points: readonly [number, number, number][] }) {
  const { set, done } = useField(field);
  const to = (next: [number, number, number][]) => set('path', { from: { kind: 'path', points: next } });
  const last = points[points.length - 1]!;
  const before = points[points.length - 2]!;
  return (
    <>
      {points.map((point, k) => (
        <Three
          key={k}
          label={`${field.name} path ${k + 1}`}
          name={`${k + 1}`}
          values={point}
          onChange={(moved) => to(points.map((p, j) => (j === k ? moved : p)))}
          onDone={done}
        />
      ))}
      <div className="flex h-8 items-center justify-end gap-2">
        <button
          className="button min-h-6"
          disabled={points.length >= MOST_POINTS}
          // As far on as the one before the last was.
          onClick={() => to([...points, last.map((v, k) => 2 * v - before[k]!) as [number, number, number]])}
        >
          Add a point
        </button>
        <button className="button min-h-6" disabled={points.length <= 2} onClick={() => to(points.slice(0, -1))}>
          Take one away
        </button>
      </div>
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
  const strands = compiling.worn.numbersOn(from.prop);
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
