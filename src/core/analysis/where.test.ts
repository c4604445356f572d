/** Where values are computed; the expected places follow from what each stage of a pipeline can know (OpenGL ES 3.0, 2.1). */
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { readKinds } from './reading.js';
import { reachedOutputs, whereComputed } from './where.js';

const effect = {
  ...effectOf([
    { id: 'hue', name: 'Hue', op: 'colour' },
    { id: 'beat', name: 'Beat', op: 'time' },
    { id: 'place', name: 'Place', op: 'position' },
    { id: 'wave', name: 'Wave', op: 'multiply', inputs: { a: { from: 'place' }, b: { from: 'beat' } } },
    { id: 'rim', name: 'Rim', op: 'fresnel' },
    { id: 'both', name: 'Both', op: 'multiply', inputs: { a: { from: 'place' }, b: { from: 'rim' } } },
    { id: 'idle', name: 'Idle', op: 'uv' },
  ]),
  outputs: { displacement: { from: 'wave' }, emission: { from: 'both' } },
};

test('once, once a frame, at the vertices where only they need it, else for every pixel', () => {
  const where = whereComputed(effect, readKinds(lower(effect, { build: 'live' })));
  expect(Object.fromEntries(where)).toEqual({
    ...{ hue: 'once', beat: 'frame', wave: 'vertex', rim: 'pixel', both: 'pixel', idle: 'pixel' },
    // It moves the vertices and lights pixels: the pixels are what costs.
    place: 'pixel',
  });
});

test('what a strand reaches in the end', () => {
  const reached = reachedOutputs(effect);
  expect([...reached.get('place')!].sort()).toEqual(['displacement', 'emission']);
  expect([...reached.get('beat')!]).toEqual(['displacement']);
  expect([...reached.get('hue')!]).toEqual([]);
});
