import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { addDial } from './edits.js';
import { readAt } from '../../../tests/fixtures/read.js';
import { addStop, addStopAt, dropStop, replaceStops, spreadStops } from './ramps.js';
import { strandsOf, type Effect } from './schema.js';

const stops = [0, 0.4, 0.7, 1].map((at, k) => ({ at, rgb: [k / 3, 0, 1 - k / 3] as [number, number, number] }));
const sheet = effectOf(
  [
    { id: 'n', name: 'N', op: 'number', inputs: { in: { value: 0.3 } } },
    {
      id: 'r',
      name: 'R',
      op: 'ramp',
      inputs: {
        stops: { value: { stops, space: 'linear', interpolation: 'linear' } as never },
        'stops.1.place': { from: 'n' },
        'stops.3.place': { from: 'n' },
      },
    },
  ],
  { emission: { from: 'r' } },
  {
    dials: [0, 1, 2, 3].map((k) => ({ id: `d${k}`, strand: 'r', input: `stops.${k}.colour` })),
    variants: [{ id: 'v', name: 'V', values: { d1: [1, 0, 0], d2: [0, 1, 0] } }],
  },
);
const dials = (effect: Effect) => Object.fromEntries(effect.dials.map((d) => [d.id, d.input]));
const linked = (effect: Effect) => {
  const { inputs } = strandsOf(effect).find((s) => s.id === 'r')!;
  return Object.keys(inputs!).filter((k) => k.endsWith('.place'));
};

test('a stop that goes takes its own dial, values and links; those after it move down with theirs', () => {
  const after = produce(sheet, (draft) => dropStop(draft, { id: 'r', literal: 'stops', stop: 1 }));
  expect(dials(after)).toEqual({ d0: 'stops.0.colour', d2: 'stops.1.colour', d3: 'stops.2.colour' });
  expect(linked(after)).toEqual(['stops.2.place']);
  expect(after.variants[0]!.values).toEqual({ d2: [0, 1, 0] });
});

test('a stop that is added stands half way; those after it move up with what is theirs', () => {
  const after = produce(sheet, (draft) => addStop(draft, { id: 'r', literal: 'stops', after: 1 }));
  expect(dials(after)).toEqual({ d0: 'stops.0.colour', d1: 'stops.1.colour', d2: 'stops.3.colour', d3: 'stops.4.colour' });
  expect(linked(after)).toEqual(['stops.1.place', 'stops.4.place']);
  const { value } = strandsOf(after).find((s) => s.id === 'r')!.inputs!.stops as { value: { stops: typeof stops } };
  expect(value.stops.map((s) => s.at)).toEqual([0, 0.4, 0.55, 0.7, 1]);
  expect(value.stops[2]!.rgb).toEqual([0.5, 0, 0.5]);
});

test('the last stop stays, and an input has one dial', () => {
  const one = produce(sheet, (draft) => {
    for (let k = 0; k < 5; k++) dropStop(draft, { id: 'r', literal: 'stops', stop: 0 });
    addDial(draft, { dial: { id: 'again', strand: 'r', input: 'stops.0.colour' } });
    addDial(draft, { dial: { id: 'other', strand: 'n', input: 'in' } });
  });
  expect(dials(one)).toEqual({ d3: 'stops.0.colour', other: 'in' });
});

test.each(['linear', 'smooth', 'step'] as const)(
  'a stop that is put on a %s ramp has its colour there, and moves what is linked',
  (interpolation) => {
    for (const space of ['linear', 'oklab'] as const) {
      const ramp = { stops, space, interpolation };
      const plain = effectOf([
        { id: 'r', name: 'R', op: 'ramp', inputs: { in: { value: 0.55 }, stops: { value: ramp as never } } },
      ]);
      const shown = readAt(plain, 'r', {});
      const more = produce(plain, (draft) => void addStopAt(draft, { id: 'r', literal: 'stops', at: 0.55 }));
      const { rgb } = (strandsOf(more)[0]!.inputs!.stops as unknown as { value: typeof ramp }).value.stops[2]!;
      rgb.forEach((v, k) => expect(v).toBeCloseTo(shown[k]!, 3));
    }
    const after = produce(sheet, (draft) => void expect(addStopAt(draft, { id: 'r', literal: 'stops', at: 0.5 })).toBe(2));
    expect(linked(after)).toEqual(['stops.1.place', 'stops.4.place']);
  },
);

test('spread evenly; replaced, what was linked to stops and dials of them go', () => {
  const placesOf = (effect: Effect) =>
    (
      strandsOf(effect).find((s) => s.id === 'r')!.inputs!.stops as unknown as { value: { stops: { at: number }[] } }
    ).value.stops.map((s) => s.at);
  expect(placesOf(produce(sheet, (d) => spreadStops(d, { id: 'r', literal: 'stops' })))).toEqual([0, 0.3333, 0.6667, 1]);
  const other = produce(sheet, (d) =>
    replaceStops(d, {
      id: 'r',
      literal: 'stops',
      stops: [
        { at: 0.1, rgb: [1, 0, 0] },
        { at: 0.9, rgb: [0, 0, 1] },
      ],
    }),
  );
  expect(placesOf(other)).toEqual([0.1, 0.9]);
  expect([linked(other), other.dials, other.variants[0]!.values]).toEqual([[], [], {}]);
});
