/** How a shader comes by each place an effect reads: from attributes, varyings, the fragment itself, or the opaque scene. */
import { LEAVES, changeIn, type Leaf } from '../ir/leaves.js';

interface Varying {
  readonly type: 'vec2' | 'vec3' | 'vec4';
  /** What the vertex shader puts there, once the vertex has moved. */
  readonly vertex: string;
}

export const VARYING_TEXTS = {
  seenPosition: { type: 'vec3', vertex: 'position' },
  seenWorld: { type: 'vec3', vertex: '(modelMatrix * vec4(position, 1.0)).xyz' },
  seenNormal: { type: 'vec3', vertex: 'worldNormal' },
  seenObjectNormal: { type: 'vec3', vertex: 'movedNormal' },
  seenViewNormal: { type: 'vec3', vertex: 'mat3(viewMatrix) * worldNormal' },
  seenView: { type: 'vec3', vertex: 'cameraPosition - (modelMatrix * vec4(movedPosition, 1.0)).xyz' },
  seenUv: { type: 'vec2', vertex: 'uv' },
  seenUv1: { type: 'vec2', vertex: 'uv1' },
  seenColour: { type: 'vec4', vertex: 'vertexColour' },
  seenEdge: { type: 'vec3', vertex: 'edge * pow(abs(determinant(mat3(modelMatrix))), 1.0 / 3.0)' },
  seenEdgeQuad: { type: 'vec3', vertex: 'edgeQuad * pow(abs(determinant(mat3(modelMatrix))), 1.0 / 3.0)' },
  seenMote: { type: 'vec3', vertex: 'mote' },
} as const satisfies Record<string, Varying>;
export type VaryingName = keyof typeof VARYING_TEXTS;

/** Attributes of the mesh beside `position` and `normal`, by the word that reads them. */
export const ATTRIBUTES = {
  uv: 'vec2',
  uv1: 'vec2',
  /** glTF COLOR_0, 1 where the mesh has none. */
  vertexColour: 'vec4',
  /** Each corner's distance to the side opposite to it, in its own component: metres in the prop's own space. */
  edge: 'vec3',
  /** The same, with sides that only cut a quad in two far away. */
  edgeQuad: 'vec3',
  /** Age 0..1, random 0..1, index. */
  mote: 'vec3',
  /** What the mesh itself has, a metre along its tangent and its bitangent: for the normals of what is displaced. */
  objectNormalDt: 'vec3',
  objectNormalDb: 'vec3',
  uvDt: 'vec2',
  uvDb: 'vec2',
  uv1Dt: 'vec2',
  uv1Db: 'vec2',
  vertexColourDt: 'vec4',
  vertexColourDb: 'vec4',
} as const;
export type AttributeName = keyof typeof ATTRIBUTES;

/** Functions and uniforms that a place's text calls on. */
export type Need = 'scene' | 'eye' | 'ray' | 'edge';

export interface PlaceText {
  readonly varying: VaryingName | null;
  readonly fragment: string;
  /** In the vertex shader; null where it cannot be known there. */
  readonly vertex: string | null;
  readonly needs?: readonly Need[];
}

const seen = (varying: VaryingName, fragment: string = varying): PlaceText => ({
  varying,
  fragment,
  vertex: VARYING_TEXTS[varying].vertex,
});
const here = (fragment: string, ...needs: Need[]): PlaceText => ({ varying: null, fragment, vertex: null, needs });
const matrix = (text: string): PlaceText => ({ varying: null, fragment: text, vertex: text, needs: ['eye'] });

/** At rest, in the vertex shader: `turned` takes normals from the prop's space to the stage's. */
const REST_NORMAL = 'normalize(turned * normal)';
const REST_VIEW = '(cameraPosition - (modelMatrix * vec4(position, 1.0)).xyz)';

/** How places change along the surface, in the vertex shader; the mesh itself has the others as attributes. */
const ALONG_TEXTS: Partial<Record<Leaf, (axis: 't' | 'b') => string>> = {
  position: tangentText,
  worldPosition: (axis) => `(mat3(modelMatrix) * ${tangentText(axis)})`,
  normal: (axis) => unitChange('turned * normal', `turned * objectNormalD${axis}`),
  viewNormal: (axis) => `(mat3(viewMatrix) * ${unitChange('turned * normal', `turned * objectNormalD${axis}`)})`,
  view: (axis) => unitChange(REST_VIEW, `-(mat3(modelMatrix) * ${tangentText(axis)})`),
  eyeDepth: (axis) => `-(mat3(viewMatrix) * (mat3(modelMatrix) * ${tangentText(axis)})).z`,
};
function tangentText(axis: 't' | 'b'): string {
  return axis === 't' ? 'tangent' : 'bitangent';
}
/** How the direction of a vector changes as the vector does. */
const unitChange = (vector: string, change: string) => `unitChange(${vector}, ${change})`;

/** Functions of the vertex shader that the changes along the surface call on. */
export const ALONG_LIBRARY = `vec3 unitChange(vec3 v, vec3 change) {
  float far = max(length(v), 1e-20);
  vec3 u = v / far;
  return (change - u * dot(u, change)) / far;
}
// A tangent for a normal: any will do, as long as it turns without a jump (Duff and others 2017; formula from memory).
vec3 tangentOf(vec3 n) {
  float s = n.z < 0.0 ? -1.0 : 1.0;
  float a = -1.0 / (s + n.z);
  return vec3(1.0 + s * n.x * n.x * a, s * n.x * n.y * a, -s * n.x);
}`;

const PLACE_TEXTS: Partial<Record<Leaf, PlaceText>> = {
  position: seen('seenPosition'),
  worldPosition: seen('seenWorld'),
  // A vertex is moved by what it is at rest; a pixel sees what it has become.
  normal: { ...seen('seenNormal', 'normalize(seenNormal) * side'), vertex: REST_NORMAL },
  objectNormal: { ...seen('seenObjectNormal', 'normalize(seenObjectNormal) * side'), vertex: 'normal' },
  viewNormal: { ...seen('seenViewNormal', 'normalize(seenViewNormal) * side'), vertex: `(mat3(viewMatrix) * ${REST_NORMAL})` },
  view: { ...seen('seenView', 'normalize(seenView)'), vertex: `normalize(${REST_VIEW})` },
  uv: seen('seenUv'),
  uv1: seen('seenUv1'),
  vertexColour: seen('seenColour'),
  facing: here('(side > 0.0 ? 1.0 : 0.0)'),
  screen: here('screenHere()', 'scene'),
  eyeDepth: { ...here('depthHere()', 'scene'), vertex: '-(viewMatrix * modelMatrix * vec4(position, 1.0)).z' },
  depthGap: here('(depthUnder() - depthHere())', 'scene'),
  depthGapRay: here('((depthUnder() - depthHere()) * length(rayHere()))', 'scene', 'eye', 'ray'),
  depthGapDown: here('(modelMatrix[3].y - pointBehind().y)', 'scene', 'eye', 'ray'),
  behind: here('sceneBehind(vec2(0.0), 0.0)', 'scene'),
  behindPosition: here('pointBehind()', 'scene', 'eye', 'ray'),
  moteAge: { ...seen('seenMote', 'seenMote.x'), vertex: 'mote.x' },
  moteRandom: { ...seen('seenMote', 'seenMote.y'), vertex: 'mote.y' },
  moteIndex: { ...seen('seenMote', 'seenMote.z'), vertex: 'mote.z' },
  edgePixels: { ...seen('seenEdge', 'nearestEdge(seenEdge, true)'), vertex: null, needs: ['edge'] },
  edgeMetres: { ...seen('seenEdge', 'nearestEdge(seenEdge, false)'), vertex: null, needs: ['edge'] },
  edgePixelsQuad: { ...seen('seenEdgeQuad', 'nearestEdge(seenEdgeQuad, true)'), vertex: null, needs: ['edge'] },
  edgeMetresQuad: { ...seen('seenEdgeQuad', 'nearestEdge(seenEdgeQuad, false)'), vertex: null, needs: ['edge'] },
  pivot: matrix('modelMatrix[3].xyz'),
  modelX: matrix('modelMatrix[0].xyz'),
  modelY: matrix('modelMatrix[1].xyz'),
  modelZ: matrix('modelMatrix[2].xyz'),
  eyeRight: matrix('transpose(mat3(viewMatrix))[0]'),
  eyeUp: matrix('transpose(mat3(viewMatrix))[1]'),
  eyeBack: matrix('transpose(mat3(viewMatrix))[2]'),
  eye: matrix('cameraPosition'),
  lens: here('lensHere()', 'eye', 'ray'),
};

/** @throws for leaves that a frame's numbers hold */
export function placeText(leaf: Leaf): PlaceText {
  const text = PLACE_TEXTS[leaf];
  if (text) return text;
  const change = changeIn(leaf);
  if (!change) throw new Error(`${leaf} is not a place of the surface`);
  const { of, along } = change;
  if (along === 't' || along === 'b') {
    const own = ALONG_TEXTS[of];
    return { varying: null, fragment: 'still', vertex: own ? own(along) : leaf };
  }
  const { fragment, ...rest } = placeText(of);
  // On the screen a vertex has no neighbours: nothing changes there, and edges are hard.
  return { ...rest, fragment: `dFd${along}(${fragment})`, vertex: 'still' };
}

/** Text of a leaf for the vertex shader. */
export function vertexText(leaf: Leaf, type: string): string {
  const { vertex } = placeText(leaf);
  if (vertex === null) throw new Error(`${leaf} is not known at a vertex`);
  return vertex === 'still' ? `${type}(0.0)` : vertex;
}

/** The varyings that these places need, each once. */
export function varyingsFor(leaves: readonly Leaf[]): VaryingName[] {
  const names = new Set<VaryingName>();
  for (const leaf of leaves) {
    const { varying } = placeText(leaf);
    if (varying) names.add(varying);
  }
  return [...names];
}

/** The attributes, beside position and normal, that these texts of the vertex shader read. */
export function attributesIn(...texts: readonly string[]): AttributeName[] {
  return (Object.keys(ATTRIBUTES) as AttributeName[]).filter((name) => texts.some((t) => new RegExp(`\\b${name}\\b`).test(t)));
}

/** How far the nearest thing lies behind a surface that has nothing behind it, in metres. */
const glslFar = LEAVES.depthGap.fallback[0]!.toFixed(1);

export const NEED_TEXTS: Readonly<Record<Need, string>> = {
  scene: `uniform highp sampler2D opaqueColour; // the opaque scene, scene-linear
uniform highp sampler2D opaqueDepth; // its depth along the view axis, metres
uniform vec2 pictureSize; // pixels
vec2 screenHere() { return gl_FragCoord.xy / pictureSize; }
float depthHere() { return 1.0 / gl_FragCoord.w; }
float depthBehind(vec2 at) { return textureLod(opaqueDepth, at, 0.0).x; }
// Depth behind this point itself. Beside the outline of something nearer a pixel is partly that: the scene goes on around it.
float depthUnder() {
  // A picture of one texel stands for no scene at all: fifty metres of nothing.
  if (textureSize(opaqueDepth, 0).x == 1) return depthHere() + ${glslFar};
  ivec2 at = ivec2(gl_FragCoord.xy);
  ivec2 last = ivec2(pictureSize) - 1;
  float d = texelFetch(opaqueDepth, at, 0).x;
  if (d >= depthHere()) return d;
  for (int k = 0; k < 8; k++) {
    ivec2 beside = at + ivec2(k % 3, k / 3) - 1;
    if (k >= 4) beside = at + ivec2((k + 1) % 3, (k + 1) / 3) - 1;
    d = max(d, texelFetch(opaqueDepth, clamp(beside, ivec2(0), last), 0).x);
  }
  return d;
}
// The scene behind, looked up beside this point. What stands in front of the surface is not behind it.
vec3 sceneBehind(vec2 offset, float blur) {
  if (textureSize(opaqueDepth, 0).x == 1) return vec3(0.0);
  vec2 here = screenHere();
  vec2 at = clamp(here + offset, 0.5 / pictureSize, 1.0 - 0.5 / pictureSize);
  vec2 corner = at * pictureSize - 0.5;
  vec2 low = (floor(corner) + 0.5) / pictureSize;
  vec2 high = (floor(corner) + 1.5) / pictureSize;
  vec4 depths = vec4(depthBehind(low), depthBehind(vec2(high.x, low.y)), depthBehind(vec2(low.x, high.y)), depthBehind(high));
  bool hidden = any(lessThan(depths, vec4(depthHere())));
  return textureLod(opaqueColour, hidden ? here : at, blur * 6.0).xyz;
}`,
  eye: '',
  ray: `uniform mat4 projectionMatrix;
vec2 lensHere() { return vec2(projectionMatrix[0].x, projectionMatrix[1].y) * 0.5; }
// From the eye through this pixel, one metre along the view axis; on the stage.
vec3 rayHere() {
  vec2 p = (screenHere() * 2.0 - 1.0 + projectionMatrix[2].xy) / vec2(projectionMatrix[0].x, projectionMatrix[1].y);
  return transpose(mat3(viewMatrix)) * vec3(p, -1.0);
}
vec3 pointBehind() { return cameraPosition + rayHere() * depthUnder(); }`,
  edge: `float nearestEdge(vec3 metres, bool inPixels) {
  vec3 slope = sqrt(dFdx(metres) * dFdx(metres) + dFdy(metres) * dFdy(metres));
  vec3 far = inPixels ? metres / max(slope, vec3(1e-9)) : metres;
  return min(far.x, min(far.y, far.z));
}`,
};

/** What the texts of a fragment shader's places call on, in the order in which it must be defined. */
export function needsOf(leaves: readonly Leaf[], code: string, behind = false): Need[] {
  const wanted = new Set<Need>(leaves.flatMap((l) => placeText(l).needs ?? []));
  if (behind || /\bsceneBehind\(/.test(code) || wanted.has('ray')) wanted.add('scene');
  return (Object.keys(NEED_TEXTS) as Need[]).filter((n) => wanted.has(n));
}
