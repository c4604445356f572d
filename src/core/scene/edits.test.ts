import { stageOf } from '../../../tests/fixtures/stages.js';
import { MAX_PINS, deletePin, freshPinId, pinsOf, setPin } from './pins.js';
import { readStage, type Stage } from './stage.js';
import {
  PRIMITIVES,
  addAsset,
  addProp,
  copyStage,
  deleteProp,
  dressProp,
  duplicateProp,
  freshPropId,
  placeProp,
  propOf,
  setOverride,
  setViewpoint,
} from './edits.js';
import { boxOf, freePlace } from './placing.js';
import { effectsOn, keepStandIn, standInOf, takenFrom, wear, whoWears, whyNowhere } from './wearing.js';

/** What every edit must leave: a stage that can be stored. */
const valid = (stage: Stage) => expect(readStage(JSON.parse(JSON.stringify(stage)))).toMatchObject({ ok: true });
const LAMP = { id: 'lamp', home: null };

describe('props', () => {
  test('every primitive can be added, and has a name of its own', () => {
    const stage = stageOf();
    for (const { name, source, turn } of PRIMITIVES)
      addProp(stage, { id: freshPropId(stage, name), name, source, place: [0, 1, 0], effect: 'lamp', ...(turn ? { turn } : {}) });
    valid(stage);
    expect(new Set(stage.props.map((p) => p.name)).size).toBe(stage.props.length);
    expect(stage.props.find((p) => p.id === 'tube-2')!.name).toBe('Tube 2');
    expect(new Set(stage.props.map((p) => p.seed)).size).toBe(stage.props.length);
  });
  test('a copy wears the same and differs in seed; deleting takes the mesh that nobody else is made of', () => {
    const stage = stageOf();
    addAsset(stage, { key: 'hull', asset: { sha256: 'a'.repeat(64), name: 'hull.glb', type: 'model/gltf-binary', size: 9 } });
    addProp(stage, { id: 'hull-1', name: 'Hull', source: { asset: 'hull' }, place: [0, 0, 0], effect: 'lamp' });
    setOverride(stage, { id: 'hull-1', effect: 'lamp', dial: 'd1', value: 4 });
    duplicateProp(stage, { id: 'hull-1', newId: 'hull-2', place: [1, 0, 0] });
    expect(propOf(stage, 'hull-2').parts).toEqual(propOf(stage, 'hull-1').parts);
    expect(propOf(stage, 'hull-2').seed).not.toBe(propOf(stage, 'hull-1').seed);
    setOverride(stage, { id: 'hull-2', effect: 'lamp', dial: 'd1', value: 5 });
    expect(propOf(stage, 'hull-1').parts[0]!.overrides).toEqual({ d1: 4 });
    deleteProp(stage, { id: 'hull-1' });
    expect(Object.keys(stage.assets)).toEqual(['hull']);
    deleteProp(stage, { id: 'hull-2' });
    expect(stage.assets).toEqual({});
    valid(stage);
  });
  test('dressing keeps a prop’s own values under another variant, and drops them under another effect', () => {
    const stage = stageOf();
    dressProp(stage, { id: 'tube-1', effect: 'lamp', variant: 'dim' });
    setOverride(stage, { id: 'tube-1', effect: 'lamp', dial: 'd1', value: 4 });
    dressProp(stage, { id: 'tube-1', effect: 'lamp', variant: null });
    expect(propOf(stage, 'tube-1').parts[0]).toMatchObject({ variant: null, overrides: { d1: 4 } });
    setOverride(stage, { id: 'tube-1', effect: 'lamp', dial: 'd1', value: undefined });
    expect(propOf(stage, 'tube-1').parts[0]!.overrides).toEqual({});
    setOverride(stage, { id: 'tube-1', effect: 'lamp', dial: 'd1', value: 4 });
    dressProp(stage, { id: 'tube-1', effect: 'other' });
    expect(propOf(stage, 'tube-1').parts[0]).toMatchObject({ effect: 'other', overrides: {} });
    dressProp(stage, { id: 'tube-1', effect: null });
    expect(propOf(stage, 'tube-1').parts).toEqual([]);
  });
  test('are moved, and viewpoints are kept anew or added', () => {
    const stage = stageOf();
    placeProp(stage, { id: 'tube-1', place: [1, 2, 3] });
    expect(propOf(stage, 'tube-1').place).toEqual([1, 2, 3]);
    setViewpoint(stage, { viewpoint: { ...stage.viewpoints[0]!, eye: [9, 9, 9] } });
    setViewpoint(stage, { viewpoint: { ...stage.viewpoints[0]!, id: 'side', name: 'Side' } });
    expect(stage.viewpoints.map((v) => [v.id, v.eye[0]])).toEqual([
      ['front', 9],
      ['side', 9],
    ]);
    valid(stage);
  });
});

describe('who wears what', () => {
  test('an effect that no prop wears stands in on its home prop, or on the first', () => {
    const stage = stageOf();
    addProp(stage, { id: 'box-1', name: 'Box', source: PRIMITIVES[1]!.source, place: [0, 0, 0], effect: 'other' });
    expect(whoWears(stage, LAMP)).toEqual([
      { prop: 'tube-1', effect: 'lamp', variant: null, overrides: {} },
      { prop: 'box-1', effect: 'other', variant: null, overrides: {} },
    ]);
    const atHome = { id: 'lamp', home: { stage: 'hall', prop: 'box-1', viewpoint: '' } };
    expect(whoWears(stage, atHome).map((w) => [w.prop, w.effect])).toEqual([['box-1', 'lamp']]);
  });
  test('where a prop wears it, that is what counts; hidden and bare props wear nothing', () => {
    const stage = stageOf();
    for (const id of ['box-1', 'box-2'])
      addProp(stage, { id, name: 'Box', source: PRIMITIVES[1]!.source, place: [0, 0, 0], effect: 'lamp' });
    dressProp(stage, { id: 'box-1', effect: 'lamp', variant: 'dim' });
    propOf(stage, 'box-2').visible = false;
    expect(whoWears(stage, LAMP)).toEqual([{ prop: 'box-1', effect: 'lamp', variant: 'dim', overrides: {} }]);
    expect(effectsOn(stage)).toEqual(['lamp']);
  });
  const box = (id: string, effect: string | null) => ({
    id,
    name: 'Box',
    source: PRIMITIVES[1]!.source,
    place: [3, 0, 0] as [number, number, number],
    effect,
  });
  test('it stands in on a prop that wears nothing before it stands in on another effect’s, and never on one that is not seen', () => {
    const stage = stageOf();
    dressProp(stage, { id: 'tube-1', effect: 'other' });
    addProp(stage, box('box-1', null));
    expect(standInOf(stage, LAMP)?.id).toBe('box-1');
    propOf(stage, 'box-1').visible = false;
    expect(standInOf(stage, LAMP)?.id).toBe('tube-1');
    expect(standInOf(stage, { id: 'other', home: null })).toBeNull();
  });
  test('it never stands in on what is locked, and where there is nothing else that is said', () => {
    const stage = stageOf();
    dressProp(stage, { id: 'tube-1', effect: null });
    for (const prop of stage.props) prop.locked = true;
    const bench = { id: 'lamp', name: 'Lamp', kind: 'surface', home: null } as const;
    expect([standInOf(stage, LAMP), whoWears(stage, LAMP)]).toEqual([null, []]);
    expect(whyNowhere(stage, bench)).toMatch(/^Nothing on .* can wear Lamp: add a prop; what is locked there stays as it is\.$/);
    keepStandIn(stage, LAMP);
    expect(effectsOn(stage)).toEqual([]);
    addProp(stage, box('box-1', null));
    expect([standInOf(stage, LAMP)?.id, whyNowhere(stage, bench)]).toEqual(['box-1', null]);
  });
  test('dressing one prop leaves the one it stood in on as it was: both wear it', () => {
    const stage = stageOf();
    addProp(stage, box('box-1', null));
    wear(stage, LAMP, { id: 'box-1', variant: 'dim' });
    expect(whoWears(stage, LAMP)).toEqual([
      { prop: 'tube-1', effect: 'lamp', variant: null, overrides: {} },
      { prop: 'box-1', effect: 'lamp', variant: 'dim', overrides: {} },
    ]);
    valid(stage);
  });
  test('what another effect wears is told before it is taken, and a stand-in takes nothing', () => {
    const stage = stageOf();
    dressProp(stage, { id: 'tube-1', effect: 'other' });
    addProp(stage, box('box-1', 'other'));
    expect(takenFrom(stage, LAMP, 'box-1')).toEqual({ prop: 'Box', effect: 'other' });
    expect(takenFrom(stage, { id: 'other' }, 'box-1')).toBeNull();
    keepStandIn(stage, LAMP);
    expect(effectsOn(stage)).toEqual(['other']);
    wear(stage, LAMP, { id: 'box-1' });
    expect(stage.props.map((p) => p.parts[0]!.effect)).toEqual(['other', 'lamp']);
  });
  test('a duplicate of what is worn wears it too, beside everything that stands there', () => {
    const stage = stageOf();
    keepStandIn(stage, LAMP);
    const tube = propOf(stage, 'tube-1');
    const beside = () => freePlace(stage, boxOf({ ...tube, place: [0, 0, 0] }), { near: tube.place, height: tube.place[1] });
    for (const newId of ['tube-2', 'tube-3', 'tube-4']) duplicateProp(stage, { id: 'tube-1', newId, place: beside() });
    expect(whoWears(stage, LAMP)).toHaveLength(4);
    // As high as the first, and none lies in another.
    expect(new Set(stage.props.filter((p) => p.id.startsWith('tube')).map((p) => p.place[1])).size).toBe(1);
    const rooms = stage.props.map((p) => boxOf(p));
    for (const [k, a] of rooms.entries())
      for (const b of rooms.slice(k + 1))
        expect([0, 1, 2].every((axis) => a.low[axis]! < b.high[axis]! && b.low[axis]! < a.high[axis]!)).toBe(false);
    valid(stage);
  });
  test('a copied stage wears the copies, and its lights follow them', () => {
    const stage = stageOf();
    dressProp(stage, { id: 'tube-1', effect: 'lamp' });
    stage.lights[0]!.drivenBy = { effect: 'lamp', variant: null, strand: 's', scale: 1 };
    const copy = copyStage(stage, { id: 'hall-2', name: 'Hall 2', worn: { lamp: 'lamp-2' } });
    expect([copy.id, copy.props[0]!.parts[0]!.effect, copy.lights[0]!.drivenBy!.effect]).toEqual(['hall-2', 'lamp-2', 'lamp-2']);
    expect(stage.props[0]!.parts[0]!.effect).toBe('lamp');
    valid(copy);
  });
});

describe('pins', () => {
  const pin = (id: string, prop = 'tube-1') => ({
    id,
    prop,
    position: [0, 0, 0] as [number, number, number],
    normal: [0, 0, 1] as [number, number, number],
    uv: [0.5, 0.5] as [number, number],
  });
  test('take the first free letter, as many as there are, and stand in order', () => {
    const stage = stageOf();
    setPin(stage, { pin: pin('B') });
    setPin(stage, { pin: pin('A') });
    expect(pinsOf(stage).map((p) => p.id)).toEqual(['A', 'B']);
    expect(freshPinId(stage)).toBe('C');
    for (const id of ['C', 'D', 'E', 'F']) setPin(stage, { pin: pin(id) });
    expect([pinsOf(stage).length, freshPinId(stage)]).toEqual([MAX_PINS, null]);
    deletePin(stage, { id: 'A' });
    expect(freshPinId(stage)).toBe('A');
    valid(stage);
  });
  test('of props that are gone are not seen, and neither is what is no pin', () => {
    const stage = stageOf({ extra: { pins: [pin('A'), pin('B', 'gone'), { id: 7 }, 'x'] } });
    expect(pinsOf(stage).map((p) => p.id)).toEqual(['A']);
    expect(pinsOf(stageOf({ extra: { pins: 'none' } }))).toEqual([]);
  });
});
