import { effectOf } from '../../../tests/fixtures/sheets.js';
import { stageOf } from '../../../tests/fixtures/stages.js';
import type { Effect } from '../effect/schema.js';
import { Materials } from './materials.js';
import { effectsOn, inVariant } from './wearing.js';
import { WornOnStage } from './worn.js';
import { driverIn, driversIn } from './driven.js';
import type { Light, Stage } from './stage.js';

const v = (value: number) => ({ value });
const f = (from: string) => ({ from });
const LAMP: Effect = {
  ...effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'own', name: 'Own', op: 'propRandom' },
      { id: 'level', name: 'Level', op: 'number', inputs: { in: v(0.5) } },
      { id: 'beat', name: 'Beat', op: 'multiply', inputs: { a: f('t'), b: f('level') } },
      { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0.5, 0.25], intensity: 2, unit: 'factor' } } } },
      { id: 'below', name: 'Below', op: 'subtract', inputs: { a: v(0), b: f('t') } },
      { id: 'uv', name: 'Uv', op: 'uv' },
      { id: 'over', name: 'Over it', op: 'multiply', inputs: { a: f('beat'), b: { from: 'uv', part: 'x' } } },
    ],
    { emission: f('hue') },
    {
      dials: [{ id: 'd', strand: 'level', input: 'in', label: 'Level', soft: [0, 1] }],
      variants: [{ id: 'bright', name: 'Bright', values: { d: 4 } }],
    },
  ),
  ...{ id: 'lamp', loop: null },
};
const driving = (more: Partial<NonNullable<Light['drivenBy']>> = {}) => ({
  ...{ effect: 'lamp', variant: null, strand: 'beat', scale: 1 },
  ...more,
});
function stageWith(by: Light['drivenBy']): Stage {
  const stage = stageOf();
  return { ...stage, lights: [{ ...stage.lights[0]!, drivenBy: by }] };
}
function lightsOf(stage: Stage, effect = LAMP, others: readonly Effect[] = []) {
  const worn = new WornOnStage(new Materials(new Map()));
  worn.update(stage, new Map([effect, ...others].map((e) => [e.id, e])), effect);
  return worn.lights;
}
const at = (by: Light['drivenBy'], time: number, effect = LAMP) => lightsOf(stageWith(by), effect)[0]?.at(time);

test('a number of a strand multiplies the intensity, a colour the colour', () => {
  expect(at(driving(), 3)).toEqual({ rgb: [1, 1, 1], intensity: 1.5 });
  expect(at(driving({ scale: 2 }), 3)!.intensity).toBe(3);
  expect(at(driving({ strand: 'hue' }), 3)).toEqual({ rgb: [2, 1, 0.5], intensity: 1 });
});
test('no light is less than none', () => expect(at(driving({ strand: 'below' }), 3)!.intensity).toBe(0));
test('in its variant, and as a prop of that seed has it', () => {
  expect(at(driving({ variant: 'bright' }), 3)!.intensity).toBe(12);
  const random = (seed?: number) => at(driving({ strand: 'own', ...(seed === undefined ? {} : { seed }) }), 0)!.intensity;
  expect(new Set([random(1), random(2), random(3)]).size).toBe(3);
  expect(random()).toBe(random(0));
});
test('what reads the surface drives nothing; the strands that can are told, the last that moves is meant', () => {
  const { program } = new Materials(new Map()).of(LAMP);
  expect(driversIn(LAMP, program).map((s) => s.id)).toEqual(['t', 'own', 'level', 'beat', 'hue', 'below']);
  expect(driverIn(LAMP, program)!.id).toBe('below');
  expect(at(driving({ strand: 'over' }), 3)).toBeUndefined();
  expect(at(driving({ strand: 'gone' }), 3)).toBeUndefined();
});
test('an effect of kind light drives by its outputs: colour, and intensity', () => {
  const light: Effect = { ...LAMP, kind: 'light', outputs: { colour: f('hue'), intensity: f('beat') } };
  expect(at(driving({ strand: null }), 4, light)).toEqual({ rgb: [2, 1, 0.5], intensity: 2 });
  expect(at(driving({ strand: null }), 4, { ...light, outputs: { intensity: f('beat') } })).toEqual({
    ...{ rgb: [1, 1, 1], intensity: 2 },
  });
  expect(at(driving({ strand: null }), 4)).toBeUndefined();
});
test('an effect that is gone lets the light shine as it is; one with an error keeps what it gave last', () => {
  const stage = stageWith(driving());
  expect(lightsOf({ ...stage, lights: [{ ...stage.lights[0]!, drivenBy: driving({ effect: 'gone' }) }] })).toEqual([]);
  const worn = new WornOnStage(new Materials(new Map()));
  worn.update(stage, new Map([['lamp', LAMP]]), LAMP);
  const strands = LAMP.strands.map((s) =>
    s.id === 'beat' ? { ...s, op: 'formula', inputs: { formula: { value: { text: '1 +' } } } } : s,
  );
  const broken = { ...LAMP, strands } as Effect;
  worn.update(stage, new Map([['lamp', broken]]), broken);
  expect(worn.lights[0]!.at(3).intensity).toBe(1.5);
});
test('what drives a light is on the stage, and follows where the effect is shown in a variant', () => {
  const stage = stageWith(driving({ effect: 'other' }));
  expect(effectsOn(stage)).toContain('other');
  expect(inVariant(stageWith(driving()), LAMP, 'bright').lights[0]!.drivenBy!.variant).toBe('bright');
  expect(inVariant(stage, LAMP, 'bright').lights[0]!.drivenBy!.variant).toBeNull();
});

test('a prop is bare while its effect is none of a surface', () => {
  const stage = stageOf();
  const wearing = {
    ...stage,
    props: stage.props.map((p) => ({ ...p, parts: [{ part: 'all', effect: 'lamp', variant: null, overrides: {} }] })),
  };
  const worn = new WornOnStage(new Materials(new Map()));
  const wearers = (kind: Effect['kind']) =>
    worn.update(wearing, new Map([['lamp', { ...LAMP, kind }]]), { ...LAMP, kind }).length;
  expect([wearers('surface'), wearers('mote'), wearers('light')]).toEqual([stage.props.length, 0, 0]);
});
