/** Where and when: the places an effect reads. */
import type { Leaf } from '../ir/leaves.js';
import { operator, type OperatorRecord } from './record.js';

const space = (values: Record<string, Leaf>, chosen: string) => ({
  values,
  option: { values: Object.keys(values), default: chosen, note: 'whose axes' },
});

const positions = space({ object: 'position', world: 'worldPosition' }, 'object');
const normals = space({ object: 'objectNormal', world: 'normal', view: 'viewNormal' }, 'world');

export const WHERE: readonly OperatorRecord[] = [
  operator({
    id: 'time',
    label: 'time',
    family: 'Where and when',
    summary: 'Seconds since the loop began, and how far through the loop that is.',
    keywords: ['clock', 'seconds', 'phase'],
    inputs: {},
    outputs: [
      { id: 'seconds', kind: '1', note: 'seconds since the loop began' },
      { id: 'phase', kind: '1', note: '0 to 1 over the loop; 0 for an effect that runs on' },
    ],
    lower: ({ b }) => {
      const time = b.leaf('time');
      return { seconds: time, phase: b.div(time, b.leaf('loop')) };
    },
  }),
  operator({
    id: 'uv',
    label: 'uv',
    family: 'Where and when',
    summary: 'The texture coordinates of the mesh, u to the right and v up.',
    keywords: ['texture', 'coordinates'],
    inputs: {},
    options: { channel: { values: ['0', '1'], default: '0', note: 'which set of coordinates' } },
    outputs: [{ id: 'value', kind: '2', note: 'u and v' }],
    source: 'glTF 2.0, TEXCOORD_n',
    lower: ({ b, options }) => ({ value: b.leaf(options.channel === '1' ? 'uv1' : 'uv') }),
  }),
  operator({
    id: 'position',
    label: 'position',
    family: 'Where and when',
    summary: 'Where the point is, in metres, before anything moves it.',
    keywords: ['place', 'point', 'location'],
    inputs: {},
    options: { space: positions.option },
    outputs: [{ id: 'value', kind: '3', note: 'x, y, z in metres' }],
    lower: ({ b, options }) => ({ value: b.leaf(positions.values[options.space!]!) }),
  }),
  operator({
    id: 'normal',
    label: 'normal',
    family: 'Where and when',
    summary: 'Which way the surface faces; turned towards the eye on back faces.',
    keywords: ['facing', 'direction'],
    inputs: {},
    options: { space: normals.option },
    outputs: [{ id: 'value', kind: '3', note: 'a unit vector' }],
    lower: ({ b, options }) => ({ value: b.leaf(normals.values[options.space!]!) }),
  }),
  operator({
    id: 'view',
    label: 'view',
    family: 'Where and when',
    summary: 'The direction from the surface to the eye, on the stage.',
    keywords: ['eye', 'camera', 'direction'],
    inputs: {},
    outputs: [{ id: 'value', kind: '3', note: 'a unit vector' }],
    lower: ({ b }) => ({ value: b.leaf('view') }),
  }),
];
