/** How a shader of GLSL ES 3.00 comes by each place: from attributes, varyings, the fragment itself, or the opaque scene. */
import { LEAVES } from '../../ir/leaves.js';
import { NOTHING_BEHIND, type PlaceTexts } from '../places.js';
import { glslType } from './glsl.js';

/** At rest, in the vertex shader: `turned` takes normals from the prop's space to the stage's. */
const REST_NORMAL = 'normalize(turned * normal)';
const REST_VIEW = '(cameraPosition - (modelMatrix * vec4(position, 1.0)).xyz)';
const EDGE_SCALE = 'pow(abs(determinant(mat3(modelMatrix))), 1.0 / 3.0)';

const tangentText = (axis: 't' | 'b') => (axis === 't' ? 'tangent' : 'bitangent');
/** How the direction of a vector changes as the vector does. */
const unitChange = (vector: string, change: string) => `unitChange(${vector}, ${change})`;
/** The same in both shaders. */
const both = (text: string) => ({ fragment: text, vertex: text });
const pixel = (fragment: string) => ({ fragment, vertex: null });

/** Functions of the vertex shader that the changes along the surface call on. */
export const GLSL_ALONG = `vec3 unitChange(vec3 v, vec3 change) {
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

const varyings: PlaceTexts['varyings'] = {
  seenPosition: 'position',
  seenWorld: '(modelMatrix * vec4(position, 1.0)).xyz',
  seenNormal: 'worldNormal',
  seenObjectNormal: 'movedNormal',
  seenViewNormal: 'mat3(viewMatrix) * worldNormal',
  seenView: 'cameraPosition - (modelMatrix * vec4(movedPosition, 1.0)).xyz',
  seenUv: 'uv',
  seenUv1: 'uv1',
  seenColour: 'vertexColour',
  seenEdge: `edge * ${EDGE_SCALE}`,
  seenEdgeQuad: `edgeQuad * ${EDGE_SCALE}`,
  seenMote: 'mote',
};

export const GLSL_PLACES: PlaceTexts = {
  varyings,
  places: {
    position: { fragment: 'seenPosition', vertex: varyings.seenPosition },
    worldPosition: { fragment: 'seenWorld', vertex: varyings.seenWorld },
    // A vertex is moved by what it is at rest; a pixel sees what it has become.
    normal: { fragment: 'normalize(seenNormal) * side', vertex: REST_NORMAL },
    objectNormal: { fragment: 'normalize(seenObjectNormal) * side', vertex: 'normal' },
    viewNormal: { fragment: 'normalize(seenViewNormal) * side', vertex: `(mat3(viewMatrix) * ${REST_NORMAL})` },
    view: { fragment: 'normalize(seenView)', vertex: `normalize(${REST_VIEW})` },
    uv: { fragment: 'seenUv', vertex: varyings.seenUv },
    uv1: { fragment: 'seenUv1', vertex: varyings.seenUv1 },
    vertexColour: { fragment: 'seenColour', vertex: varyings.seenColour },
    facing: pixel('(side > 0.0 ? 1.0 : 0.0)'),
    screen: pixel('screenHere()'),
    eyeDepth: { fragment: 'depthHere()', vertex: '-(viewMatrix * modelMatrix * vec4(position, 1.0)).z' },
    depthGap: pixel('(depthUnder() - depthHere())'),
    depthGapRay: pixel('((depthUnder() - depthHere()) * length(rayHere()))'),
    depthGapDown: pixel('((cameraPosition - seenView).y - pointBehind().y)'),
    behind: pixel('sceneBehind(vec2(0.0), 0.0)'),
    behindPosition: pixel('pointBehind()'),
    moteAge: { fragment: 'seenMote.x', vertex: 'mote.x' },
    moteRandom: { fragment: 'seenMote.y', vertex: 'mote.y' },
    moteIndex: { fragment: 'seenMote.z', vertex: 'mote.z' },
    edgePixels: pixel('nearestEdge(seenEdge, true)'),
    edgeMetres: pixel('nearestEdge(seenEdge, false)'),
    edgePixelsQuad: pixel('nearestEdge(seenEdgeQuad, true)'),
    edgeMetresQuad: pixel('nearestEdge(seenEdgeQuad, false)'),
    pivot: both('modelMatrix[3].xyz'),
    modelX: both('modelMatrix[0].xyz'),
    modelY: both('modelMatrix[1].xyz'),
    modelZ: both('modelMatrix[2].xyz'),
    eyeRight: both('transpose(mat3(viewMatrix))[0]'),
    eyeUp: both('transpose(mat3(viewMatrix))[1]'),
    eyeBack: both('transpose(mat3(viewMatrix))[2]'),
    eye: both('cameraPosition'),
    lens: pixel('lensHere()'),
  },
  along: {
    position: tangentText,
    worldPosition: (axis) => `(mat3(modelMatrix) * ${tangentText(axis)})`,
    normal: (axis) => unitChange('turned * normal', `turned * objectNormalD${axis}`),
    viewNormal: (axis) => `(mat3(viewMatrix) * ${unitChange('turned * normal', `turned * objectNormalD${axis}`)})`,
    view: (axis) => unitChange(REST_VIEW, `-(mat3(modelMatrix) * ${tangentText(axis)})`),
    eyeDepth: (axis) => `-(mat3(viewMatrix) * (mat3(modelMatrix) * ${tangentText(axis)})).z`,
  },
  across: (axis, text) => `dFd${axis}(${text})`,
  zero: (leaf) => `${glslType(LEAVES[leaf].type)}(0.0)`,
  needs: {
    scene: `uniform highp sampler2D opaqueColour; // the opaque scene, scene-linear
uniform highp sampler2D opaqueDepth; // its depth along the view axis, metres
uniform vec2 pictureSize; // pixels
vec2 screenHere() { return gl_FragCoord.xy / pictureSize; }
float depthHere() { return 1.0 / gl_FragCoord.w; }
float depthBehind(vec2 at) { return textureLod(opaqueDepth, at, 0.0).x; }
// Depth behind this point itself. Beside the outline of something nearer a pixel is partly that: the scene goes on around it.
float depthUnder() {
  // A picture of one texel stands for no scene at all: fifty metres of nothing.
  if (textureSize(opaqueDepth, 0).x == 1) return depthHere() + ${NOTHING_BEHIND.toFixed(1)};
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
  },
};
