/** Where and when: the places an effect reads. */
import type { Leaf } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';
import { operator, type OperatorRecord } from './record.js';

const space = (values: Record<string, Leaf>, chosen: string) => ({
  values,
  option: { values: Object.keys(values), default: chosen, note: 'whose axes' },
});

const positions = space({ object: 'position', world: 'worldPosition' }, 'object');
const normals = space({ object: 'objectNormal', world: 'normal', view: 'viewNormal' }, 'world');

const GAPS: Readonly<Record<string, Leaf>> = { axis: 'depthGap', ray: 'depthGapRay', down: 'depthGapDown' };

export const WHERE: readonly OperatorRecord[] = [
  operator({
    id: 'time',
    means: 'time',
    materialx: { node: 'time', inputs: {} },
    label: 'time',
    family: 'Where and when',
    motion: { kind: 'clock' },
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
    means: 'place',
    materialx: { node: 'texcoord', inputs: {} },
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
    means: 'place',
    materialx: { node: 'position', inputs: {} },
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
    means: 'normal',
    materialx: { node: 'normal', inputs: {} },
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
    means: 'direction',
    materialx: { node: 'viewdirection', inputs: {} },
    label: 'view',
    family: 'Where and when',
    summary: 'The direction from the surface to the eye, on the stage.',
    keywords: ['eye', 'camera', 'direction'],
    inputs: {},
    outputs: [{ id: 'value', kind: '3', note: 'a unit vector' }],
    lower: ({ b }) => ({ value: b.leaf('view') }),
  }),
  operator({
    id: 'facing',
    means: 'mask',
    label: 'facing',
    family: 'Where and when',
    wild: true,
    summary: 'Tells the front of the surface, 1, from its back, 0.',
    keywords: ['front', 'back', 'side', 'two sided'],
    inputs: {},
    outputs: [{ id: 'value', kind: '1', note: '1 in front, 0 behind' }],
    lower: ({ b }) => ({ value: b.leaf('facing') }),
  }),
  operator({
    id: 'vertexColour',
    materialx: { node: 'geomcolor', inputs: {} },
    label: 'vertex colour',
    family: 'Where and when',
    looks: 'paint',
    summary: 'What is painted on the mesh, four channels; 1 where nothing is.',
    keywords: ['paint', 'mask', 'color', 'channel', 'painted'],
    inputs: {},
    outputs: [
      { id: 'value', kind: '4', note: 'all four channels' },
      { id: 'rgb', kind: 'rgb', note: 'the first three, as a colour' },
      ...(['r', 'g', 'b', 'a'] as const).map((id) => ({
        id,
        kind: '1' as const,
        means: 'mask' as const,
        note: `the channel ${id}`,
      })),
    ],
    source: 'glTF 2.0, COLOR_0',
    lower: ({ b }) => {
      const painted = b.leaf('vertexColour');
      const [r, g, blue, a] = b.split(painted) as [Node, Node, Node, Node];
      return { value: painted, rgb: b.pick(painted, 0, 1, 2), r, g, b: blue, a };
    },
  }),
  operator({
    id: 'screen',
    means: 'place',
    label: 'screen',
    family: 'Where and when',
    summary: 'Where in the picture the point is seen, from 0 at the bottom left to 1.',
    keywords: ['pixel', 'window', 'coordinates'],
    inputs: {},
    outputs: [{ id: 'value', kind: '2', note: '0..1 across and up' }],
    lower: ({ b }) => ({ value: b.leaf('screen') }),
  }),
  operator({
    id: 'eyeDepth',
    label: 'eye depth',
    family: 'Where and when',
    distance: true,
    summary: 'How far in front of the eye the point is.',
    keywords: ['distance', 'camera', 'fog'],
    inputs: {},
    outputs: [{ id: 'value', kind: '1', note: 'metres along the view axis' }],
    lower: ({ b }) => ({ value: b.leaf('eyeDepth') }),
  }),
  operator({
    id: 'depthGap',
    label: 'depth gap',
    family: 'Where and when',
    distance: true,
    looks: 'behind',
    summary: 'How far behind this point the opaque scene lies; needs a see-through finish.',
    keywords: ['depth', 'contact', 'shore', 'intersection', 'behind', 'fade', 'deep'],
    inputs: {},
    options: {
      along: {
        values: Object.keys(GAPS),
        default: 'axis',
        note: 'along the view axis, along the ray from the eye, or straight down from this point',
      },
    },
    outputs: [{ id: 'value', kind: '1', note: 'metres; as far as can be seen where nothing is behind' }],
    lower: ({ b, options }) => ({ value: b.leaf(GAPS[options.along!]!) }),
  }),
  operator({
    id: 'behind',
    label: 'behind',
    family: 'Where and when',
    looks: 'behind',
    summary: 'The picture of the opaque scene behind, looked up beside this point; needs a see-through finish.',
    keywords: ['refraction', 'scene colour', 'grab', 'background', 'glass'],
    inputs: {
      offset: {
        wants: 'shift',
        kind: '2',
        default: [0, 0],
        soft: [-0.1, 0.1],
        literal: 'vector',
        note: 'how far beside, in screen units',
      },
      roughness: { wants: 'mask', kind: '1', default: 0, soft: [0, 1], note: '0 sharp, 1 very soft' },
    },
    outputs: [{ id: 'value', kind: 'rgb', note: 'scene-linear; never of what stands in front' }],
    lower: ({ b }, x) => ({ value: b.behind(x.offset!, b.composite('clamp', x.roughness!, 0, 1)) }),
  }),
  operator({
    id: 'behindPosition',
    means: 'place',
    label: 'behind position',
    family: 'Where and when',
    looks: 'behind',
    summary: 'Where on the stage the opaque point behind this one is; needs a see-through finish.',
    keywords: ['depth', 'world', 'project', 'caustics', 'decal'],
    inputs: {},
    outputs: [{ id: 'value', kind: '3', note: 'metres, on the stage' }],
    lower: ({ b }) => ({ value: b.leaf('behindPosition') }),
  }),
  operator({
    id: 'propRandom',
    means: 'random',
    label: 'prop random',
    family: 'Where and when',
    summary: 'One number of each prop’s own, and where it stands, so that copies differ.',
    keywords: ['instance', 'seed', 'per object', 'variation', 'pivot'],
    inputs: {},
    outputs: [
      { id: 'value', kind: '1', note: '0 to 1, the same for the whole prop' },
      { id: 'pivot', kind: '3', means: 'place', note: 'metres, on the stage' },
    ],
    lower: ({ b }) => ({ value: b.leaf('propRandom'), pivot: b.leaf('pivot') }),
  }),
  operator({
    id: 'mote',
    means: 'mask',
    label: 'mote',
    family: 'Where and when',
    summary: 'How far a mote’s life has gone, a number of its own, and which it is.',
    keywords: ['particle', 'age', 'life', 'index', 'spark'],
    inputs: {},
    outputs: [
      { id: 'age', kind: '1', note: '0 when it is born, 1 when it ends' },
      { id: 'random', kind: '1', means: 'random', note: '0 to 1, its own' },
      { id: 'index', kind: '1', note: 'a whole number' },
    ],
    lower: ({ b }) => ({ age: b.leaf('moteAge'), random: b.leaf('moteRandom'), index: b.leaf('moteIndex') }),
  }),
  operator({
    id: 'edgeDistance',
    means: 'distance',
    label: 'edge distance',
    family: 'Where and when',
    summary: 'How far the nearest edge of the mesh is: lines along its wires.',
    keywords: ['wireframe', 'wire', 'mesh', 'barycentric', 'hologram'],
    inputs: {},
    options: {
      unit: { values: ['pixels', 'metres'], default: 'pixels', note: 'as it is seen, or along the surface' },
      diagonals: { values: ['hidden', 'shown'], default: 'hidden', note: 'the edges that only cut a quad in two' },
    },
    outputs: [{ id: 'value', kind: '1', note: 'pixels or metres' }],
    lower: ({ b, options }) => {
      const [pixels, metres] =
        options.diagonals === 'shown' ? (['edgePixels', 'edgeMetres'] as const) : (['edgePixelsQuad', 'edgeMetresQuad'] as const);
      return { value: b.leaf(options.unit === 'metres' ? metres : pixels) };
    },
  }),
];
