/** How a shader of WGSL comes by each place. Pictures have their first row at the top; places on the screen count upwards. */
import { LEAVES } from '../../ir/leaves.js';
import { NOTHING_BEHIND, type PlaceTexts } from '../places.js';
import { wgslType } from './wgsl.js';

/** At rest, in the vertex stage: `turned` takes normals from the prop's space to the stage's. */
const REST_NORMAL = 'normalize(turned * normal)';
const REST_VIEW = '(eye.position - (eye.model * vec4f(position, 1.0)).xyz)';
const EDGE_SCALE = 'pow(abs(determinant(axesOf(eye.model))), 1.0 / 3.0)';

const tangentText = (axis: 't' | 'b') => (axis === 't' ? 'tangent' : 'bitangent');
const unitChange = (vector: string, change: string) => `unitChange(${vector}, ${change})`;
const both = (text: string) => ({ fragment: text, vertex: text });
const pixel = (fragment: string) => ({ fragment, vertex: null });

/** The eye and the prop, for all that asks where they are. */
export const WGSL_EYE = `struct Eye {
  model: mat4x4f,
  view: mat4x4f,
  projection: mat4x4f, // depth 0 to 1
  position: vec3f, // where it is on the stage, metres
  picture: vec2f, // pixels
};
@group(0) @binding(1) var<uniform> eye: Eye;

fn axesOf(m: mat4x4f) -> mat3x3f { return mat3x3f(m[0].xyz, m[1].xyz, m[2].xyz); }`;

/** Functions of the vertex stage. */
export const WGSL_TURNED = `// Takes normals from the prop's space to the stage's: the transposed inverse, by cofactors.
fn turnedOf(m: mat4x4f) -> mat3x3f {
  let a = axesOf(m);
  let whole = dot(a[0], cross(a[1], a[2]));
  return mat3x3f(cross(a[1], a[2]) / whole, cross(a[2], a[0]) / whole, cross(a[0], a[1]) / whole);
}`;
export const WGSL_ALONG = `fn unitChange(v: vec3f, change: vec3f) -> vec3f {
  let far = max(length(v), 1e-20);
  let u = v / far;
  return (change - u * dot(u, change)) / far;
}
// A tangent for a normal: any will do, as long as it turns without a jump (Duff and others 2017; formula from memory).
fn tangentOf(n: vec3f) -> vec3f {
  let s = select(1.0, -1.0, n.z < 0.0);
  let a = -1.0 / (s + n.z);
  return vec3f(1.0 + s * n.x * n.x * a, s * n.x * n.y * a, -s * n.x);
}`;

const varyings: PlaceTexts['varyings'] = {
  seenPosition: 'position',
  seenWorld: '(eye.model * vec4f(position, 1.0)).xyz',
  seenNormal: 'worldNormal',
  seenObjectNormal: 'movedNormal',
  seenViewNormal: 'axesOf(eye.view) * worldNormal',
  seenView: 'eye.position - (eye.model * vec4f(movedPosition, 1.0)).xyz',
  seenUv: 'uv',
  seenUv1: 'uv1',
  seenColour: 'vertexColour',
  seenEdge: `edge * ${EDGE_SCALE}`,
  seenEdgeQuad: `edgeQuad * ${EDGE_SCALE}`,
  seenMote: 'mote',
};

export const WGSL_PLACES: PlaceTexts = {
  varyings,
  places: {
    position: { fragment: 'seen.seenPosition', vertex: varyings.seenPosition },
    worldPosition: { fragment: 'seen.seenWorld', vertex: varyings.seenWorld },
    // A vertex is moved by what it is at rest; a pixel sees what it has become.
    normal: { fragment: 'normalize(seen.seenNormal) * side', vertex: REST_NORMAL },
    objectNormal: { fragment: 'normalize(seen.seenObjectNormal) * side', vertex: 'normal' },
    viewNormal: { fragment: 'normalize(seen.seenViewNormal) * side', vertex: `(axesOf(eye.view) * ${REST_NORMAL})` },
    view: { fragment: 'normalize(seen.seenView)', vertex: `normalize(${REST_VIEW})` },
    uv: { fragment: 'seen.seenUv', vertex: varyings.seenUv },
    uv1: { fragment: 'seen.seenUv1', vertex: varyings.seenUv1 },
    vertexColour: { fragment: 'seen.seenColour', vertex: varyings.seenColour },
    facing: pixel('select(0.0, 1.0, side > 0.0)'),
    screen: pixel('screenHere()'),
    eyeDepth: { fragment: 'depthHere()', vertex: '-(eye.view * eye.model * vec4f(position, 1.0)).z' },
    depthGap: pixel('(depthUnder() - depthHere())'),
    depthGapRay: pixel('((depthUnder() - depthHere()) * length(rayHere()))'),
    depthGapDown: pixel('((eye.position - seen.seenView).y - pointBehind().y)'),
    behind: pixel('sceneBehind(vec2f(0.0), 0.0)'),
    behindPosition: pixel('pointBehind()'),
    moteAge: { fragment: 'seen.seenMote.x', vertex: 'mote.x' },
    moteRandom: { fragment: 'seen.seenMote.y', vertex: 'mote.y' },
    moteIndex: { fragment: 'seen.seenMote.z', vertex: 'mote.z' },
    edgePixels: pixel('nearestEdge(seen.seenEdge, true)'),
    edgeMetres: pixel('nearestEdge(seen.seenEdge, false)'),
    edgePixelsQuad: pixel('nearestEdge(seen.seenEdgeQuad, true)'),
    edgeMetresQuad: pixel('nearestEdge(seen.seenEdgeQuad, false)'),
    pivot: both('eye.model[3].xyz'),
    modelX: both('eye.model[0].xyz'),
    modelY: both('eye.model[1].xyz'),
    modelZ: both('eye.model[2].xyz'),
    eyeRight: both('transpose(axesOf(eye.view))[0]'),
    eyeUp: both('transpose(axesOf(eye.view))[1]'),
    eyeBack: both('transpose(axesOf(eye.view))[2]'),
    eye: both('eye.position'),
    lens: pixel('lensHere()'),
  },
  along: {
    position: tangentText,
    worldPosition: (axis) => `(axesOf(eye.model) * ${tangentText(axis)})`,
    normal: (axis) => unitChange('turned * normal', `turned * objectNormalD${axis}`),
    viewNormal: (axis) => `(axesOf(eye.view) * ${unitChange('turned * normal', `turned * objectNormalD${axis}`)})`,
    view: (axis) => unitChange(REST_VIEW, `-(axesOf(eye.model) * ${tangentText(axis)})`),
    eyeDepth: (axis) => `-(axesOf(eye.view) * (axesOf(eye.model) * ${tangentText(axis)})).z`,
  },
  // Rows are counted downwards here.
  across: (axis, text) => (axis === 'x' ? `dpdx(${text})` : `-dpdy(${text})`),
  zero: (leaf) => `${wgslType(LEAVES[leaf].type)}(0.0)`,
  needs: {
    scene: `@group(1) @binding(0) var opaqueColour: texture_2d<f32>; // the opaque scene, scene-linear
@group(1) @binding(1) var opaqueDepth: texture_2d<f32>; // its depth along the view axis, metres
@group(1) @binding(2) var opaqueSampler: sampler;
fn screenHere() -> vec2f { return vec2f(pixelAt.x / eye.picture.x, 1.0 - pixelAt.y / eye.picture.y); }
fn depthHere() -> f32 { return 1.0 / pixelAt.w; }
fn rowsDown(at: vec2f) -> vec2f { return vec2f(at.x, 1.0 - at.y); }
fn depthBehind(at: vec2f) -> f32 {
  let size = vec2f(textureDimensions(opaqueDepth));
  return textureLoad(opaqueDepth, vec2i(clamp(rowsDown(at) * size, vec2f(0.0), size - 1.0)), 0).x;
}
// Depth behind this point itself. Beside the outline of something nearer a pixel is partly that: the scene goes on around it.
fn depthUnder() -> f32 {
  // A picture of one texel stands for no scene at all: fifty metres of nothing.
  if (textureDimensions(opaqueDepth).x == 1u) { return depthHere() + ${NOTHING_BEHIND.toFixed(1)}; }
  let at = vec2i(pixelAt.xy);
  let last = vec2i(eye.picture) - 1;
  var d = textureLoad(opaqueDepth, at, 0).x;
  if (d >= depthHere()) { return d; }
  for (var k = 0; k < 8; k++) {
    let n = select(k, k + 1, k >= 4);
    let beside = at + vec2i(n % 3, n / 3) - 1;
    d = max(d, textureLoad(opaqueDepth, clamp(beside, vec2i(0), last), 0).x);
  }
  return d;
}
// The scene behind, looked up beside this point. What stands in front of the surface is not behind it.
fn sceneBehind(offset: vec2f, blur: f32) -> vec3f {
  if (textureDimensions(opaqueDepth).x == 1u) { return vec3f(0.0); }
  let here = screenHere();
  let at = clamp(here + offset, 0.5 / eye.picture, 1.0 - 0.5 / eye.picture);
  let corner = at * eye.picture - 0.5;
  let low = (floor(corner) + 0.5) / eye.picture;
  let high = (floor(corner) + 1.5) / eye.picture;
  let depths = vec4f(depthBehind(low), depthBehind(vec2f(high.x, low.y)), depthBehind(vec2f(low.x, high.y)), depthBehind(high));
  let hidden = any(depths < vec4f(depthHere()));
  return textureSampleLevel(opaqueColour, opaqueSampler, rowsDown(select(at, here, hidden)), blur * 6.0).xyz;
}`,
    eye: '',
    ray: `fn lensHere() -> vec2f { return vec2f(eye.projection[0].x, eye.projection[1].y) * 0.5; }
// From the eye through this pixel, one metre along the view axis; on the stage.
fn rayHere() -> vec3f {
  let p = (screenHere() * 2.0 - 1.0 + eye.projection[2].xy) / vec2f(eye.projection[0].x, eye.projection[1].y);
  return transpose(axesOf(eye.view)) * vec3f(p, -1.0);
}
fn pointBehind() -> vec3f { return eye.position + rayHere() * depthUnder(); }`,
    edge: `fn nearestEdge(metres: vec3f, inPixels: bool) -> f32 {
  let slope = sqrt(dpdx(metres) * dpdx(metres) + dpdy(metres) * dpdy(metres));
  let far = select(metres, metres / max(slope, vec3f(1e-9)), inPixels);
  return min(far.x, min(far.y, far.z));
}`,
  },
};
