/** A prop in pieces: what its parts wear by themselves, beside what is left of it. */
import { stageOf } from '../../../tests/fixtures/stages.js';
import { partNames } from '../mesh/parts.js';
import { addAsset, addProp, dressProp, duplicateProp, joinPart, propOf, setOverride } from './edits.js';
import { partIn, partOf, pieceName, pieceOf, piecesOf, propIn } from './pieces.js';
import { readStage, writeStage, type Stage } from './stage.js';
import { inVariant, standInOf, takenFrom, wear, whoWears } from './wearing.js';

const LAMP = { id: 'lamp', home: null };
const GLASS = pieceOf('lantern-1', 'Glass');

/** A stage with a lantern of the artist's own mesh. */
function lantern(effect: string | null = null): Stage {
  const stage = stageOf();
  addAsset(stage, { key: 'lantern', asset: { sha256: 'b'.repeat(64), name: 'lantern.glb', type: 'model/gltf-binary', size: 9 } });
  addProp(stage, { id: 'lantern-1', name: 'Lantern', source: { asset: 'lantern' }, place: [0, 0, 0], effect });
  return stage;
}
const worn = (stage: Stage) => whoWears(stage, LAMP).filter((w) => propIn(w.prop) === 'lantern-1');

test('an id says its prop and its part, and is the prop’s own for what is left', () => {
  expect([propIn(GLASS), partIn(GLASS)]).toEqual(['lantern-1', 'Glass']);
  expect([pieceOf('a/b', 'all'), propIn('a/b'), partIn('a/b')]).toEqual(['a/b', 'a/b', 'all']);
  expect(pieceName(lantern(), GLASS)).toBe('Lantern: Glass');
});

test('a part wears something of its own, what is left goes on as it was', () => {
  const stage = lantern('other');
  dressProp(stage, { id: GLASS, effect: 'lamp', variant: 'dim' });
  setOverride(stage, { id: GLASS, effect: 'lamp', dial: 'd1', value: 4 });
  expect(worn(stage)).toEqual([
    { prop: 'lantern-1', effect: 'other', variant: null, overrides: {} },
    { prop: GLASS, effect: 'lamp', variant: 'dim', overrides: { d1: 4 } },
  ]);
  expect(piecesOf(propOf(stage, 'lantern-1'))).toEqual(['lantern-1', GLASS]);
  // It is worn: nothing stands in for it.
  expect(standInOf(stage, LAMP)).toBeNull();
  dressProp(stage, { id: 'lantern-1', effect: null });
  expect(worn(stage).map((w) => w.prop)).toEqual([GLASS]);
  dressProp(stage, { id: 'lantern-1', effect: 'third' });
  expect(worn(stage).map((w) => w.effect)).toEqual(['third', 'lamp']);
  expect(readStage(JSON.parse(writeStage(stage)))).toEqual({ ok: true, stage });
});

test('a part may be bare by itself, and may go back to what the rest wears', () => {
  const stage = lantern('lamp');
  dressProp(stage, { id: GLASS, effect: null });
  expect(partOf(propOf(stage, 'lantern-1'), 'Glass')).toMatchObject({ effect: null });
  expect(worn(stage).map((w) => w.prop)).toEqual(['lantern-1']);
  expect(piecesOf(propOf(stage, 'lantern-1'))).toHaveLength(2);
  joinPart(stage, { id: GLASS });
  expect(piecesOf(propOf(stage, 'lantern-1'))).toEqual(['lantern-1']);
  expect(propOf(stage, 'lantern-1').parts).toHaveLength(1);
});

test('own values go with the piece; another effect there drops them', () => {
  const stage = lantern('lamp');
  setOverride(stage, { id: 'lantern-1', effect: 'lamp', dial: 'd1', value: 1 });
  setOverride(stage, { id: GLASS, effect: 'lamp', dial: 'd1', value: 2 });
  expect(worn(stage).map((w) => w.overrides)).toEqual([{ d1: 1 }, { d1: 2 }]);
  setOverride(stage, { id: GLASS, effect: 'lamp', dial: 'd1', value: undefined });
  dressProp(stage, { id: GLASS, effect: 'other' });
  expect(worn(stage).map((w) => [w.effect, w.overrides])).toEqual([
    ['lamp', { d1: 1 }],
    ['other', {}],
  ]);
  duplicateProp(stage, { id: 'lantern-1', newId: 'lantern-2', place: [1, 0, 0] });
  expect(whoWears(stage, LAMP).map((w) => w.prop)).toContain(pieceOf('lantern-2', 'Glass'));
});

test('the effect on the bench takes a part, is asked about it, and is shown in a variant there alone', () => {
  const stage = lantern('lamp');
  dressProp(stage, { id: GLASS, effect: 'other' });
  expect(takenFrom(stage, LAMP, GLASS)).toEqual({ prop: 'Lantern: Glass', effect: 'other' });
  expect(takenFrom(stage, LAMP, 'lantern-1')).toBeNull();
  expect(worn(inVariant(stage, LAMP, 'dim')).map((w) => [w.effect, w.variant])).toEqual([
    ['lamp', 'dim'],
    ['other', null],
  ]);
  wear(stage, LAMP, { id: GLASS, variant: 'dim' });
  expect(worn(stage).map((w) => [w.effect, w.variant])).toEqual([
    ['lamp', null],
    ['lamp', 'dim'],
  ]);
});

test('a primitive is one piece, whatever its part is called; a part said twice counts once', () => {
  const stage = lantern();
  const tube = propOf(stage, 'tube-1');
  tube.parts = [{ part: 'body', effect: 'lamp', variant: null, overrides: {} }];
  expect(whoWears(stage, LAMP)).toEqual([{ prop: 'tube-1', effect: 'lamp', variant: null, overrides: {} }]);
  dressProp(stage, { id: 'tube-1', effect: 'lamp', variant: 'dim' });
  expect(tube.parts).toEqual([{ part: 'body', effect: 'lamp', variant: 'dim', overrides: {} }]);
  const glass = { part: 'Glass', effect: 'lamp', variant: null, overrides: {} };
  propOf(stage, 'lantern-1').parts = [glass, { ...glass, effect: 'other' }];
  expect(worn(stage).map((w) => w.effect)).toEqual(['lamp']);
});

test('parts are called as materials are; what has no name of its own has its place', () => {
  const part = (name: string) => ({ start: 0, count: 3, surface: { name } });
  const names = partNames({ parts: ['Glass', '', 'all', ` Rim${' of brass'.repeat(9)}`].map(part) as never });
  expect(names.slice(0, 3)).toEqual(['Glass', 'Part 2', 'Part 3']);
  expect(names[3]).toHaveLength(64);
});
