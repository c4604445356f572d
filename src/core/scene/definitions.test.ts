/** Props that share one definition: changed on one, changed on all; where they stand is each one's own. */
import { stageOf } from '../../../tests/fixtures/stages.js';
import { keepAlike, ownDefinition, shareProp, sharers } from './definitions.js';
import { dressProp, duplicateProp, mirrorProp, paintProp, placeProp, propOf, setOverride, surfaceProp } from './edits.js';
import { scatterProp } from './scatter.js';
import { readStage, writeStage, type Stage } from './stage.js';

/** Does what an edit of the stage does. */
function edited(stage: Stage, recipe: (draft: Stage) => void): Stage {
  const draft = structuredClone(stage) as Stage;
  recipe(draft);
  keepAlike(stage, draft);
  expect(readStage(JSON.parse(writeStage(draft)))).toEqual({ ok: true, stage: draft });
  return draft;
}
const three = () =>
  ['tube-2', 'tube-3'].reduce(
    (stage, newId, k) => edited(stage, (d) => shareProp(d, { id: 'tube-1', newId, place: [k + 1, 0, 0] })),
    stageOf(),
  );
const asset = (letter: string) => ({ sha256: letter.repeat(64), name: 'paint', type: 'image/png', size: 9 });

test('what it is, wears, is painted with and made of follows on all; seed and place stay', () => {
  let stage = three();
  expect(sharers(stage, propOf(stage, 'tube-2')).map((p) => p.id)).toEqual(['tube-1', 'tube-3']);
  stage = edited(stage, (d) => {
    dressProp(d, { id: 'tube-3', effect: 'lamp', variant: 'dim' });
    setOverride(d, { id: 'tube-3', effect: 'lamp', dial: 'd1', value: 4 });
    placeProp(d, { id: 'tube-3', place: [9, 9, 9] });
  });
  stage = edited(stage, (d) => surfaceProp(d, { id: 'tube-2', surface: { rgb: [1, 0, 0], roughness: 0.2, metalness: 0 } }));
  for (const id of ['tube-1', 'tube-2', 'tube-3']) {
    expect(propOf(stage, id).parts).toEqual([{ part: 'all', effect: 'lamp', variant: 'dim', overrides: { d1: 4 } }]);
    expect(propOf(stage, id).surface?.rgb).toEqual([1, 0, 0]);
  }
  expect(['tube-1', 'tube-2', 'tube-3'].map((id) => propOf(stage, id).place[0])).toEqual([0, 1, 9]);
  expect(new Set(stage.props.map((p) => p.seed)).size).toBe(3);
  stage = edited(stage, (d) => surfaceProp(d, { id: 'tube-1', surface: undefined }));
  expect(stage.props.some((p) => 'surface' in p)).toBe(false);
});

test('paint goes to all, and the file that nobody is painted with any more goes', () => {
  let stage = edited(three(), (d) => paintProp(d, { id: 'tube-2', asset: asset('a') }));
  expect(new Set(stage.props.map((p) => p.paint)).size).toBe(1);
  stage = edited(stage, (d) => paintProp(d, { id: 'tube-1', asset: asset('b') }));
  expect(Object.values(stage.assets).map((a) => a.sha256[0])).toEqual(['b']);
});

test('one is its own from then on, and so is the last that is left; plain copies are their own', () => {
  let stage = edited(three(), (d) => ownDefinition(d, { id: 'tube-2' }));
  stage = edited(stage, (d) => dressProp(d, { id: 'tube-1', effect: 'lamp' }));
  expect(['tube-1', 'tube-2', 'tube-3'].map((id) => propOf(stage, id).parts.length)).toEqual([1, 0, 1]);
  stage = edited(stage, (d) => {
    duplicateProp(d, { id: 'tube-1', newId: 'copy', place: [5, 0, 0] });
    mirrorProp(d, { id: 'tube-1', newId: 'mirrored', at: 4 });
  });
  expect([propOf(stage, 'copy').definition, propOf(stage, 'mirrored').definition]).toEqual([undefined, undefined]);
  stage = edited(stage, (d) => ownDefinition(d, { id: 'tube-3' }));
  expect(stage.props.some((p) => p.definition !== undefined)).toBe(false);
});

test('scattered copies share where that is asked', () => {
  const places: [number, number, number][] = [
    [1, 0, 0],
    [2, 0, 0],
  ];
  let stage = edited(stageOf(), (d) => void scatterProp(d, { id: 'tube-1', places, seed: 1, shared: true }));
  stage = edited(stage, (d) => dressProp(d, { id: 'tube-1', effect: 'lamp' }));
  expect(stage.props.map((p) => p.parts[0]?.effect)).toEqual(['lamp', 'lamp', 'lamp']);
});
