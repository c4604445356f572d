/** What draws motes: a small sheet for each, turned to the eye, in the light that its effect gives, or lit by the stage. */
import { AdditiveBlending, DoubleSide, GLSL3, NormalBlending, RawShaderMaterial, type Material } from 'three';
import type { Finish } from '../core/effect/schema.js';
import type { MoteField } from '../core/scene/motes.js';
import type { GlslText } from '../core/targets/glsl.js';
import { FINITE_GLSL, callOf, shaderParts, type ShaderParts } from '../core/targets/glslPair.js';
import { BRIGHTEST, HEAD, SIDE_GLSL, declare, functions, lit, type Sheets } from './effectMaterial.js';
import { HAZE_GLSL } from './haze.js';
import type { ProgramState } from './programState.js';

/** What is a sheet, rather than a copy of a prop. */
type Sprite = Exclude<MoteField['shape']['kind'], 'copies'>;

/** How much of its sheet a mote fills, at a corner's place on it. */
const FILLS: Readonly<Record<Sprite, string>> = {
  round: '1.0 - smoothstep(0.55, 1.0, length(seenCorner))',
  square: '1.0',
  streak: '(1.0 - smoothstep(0.4, 1.0, abs(seenCorner.x))) * (1.0 - smoothstep(0.2, 1.0, abs(seenCorner.y)))',
};

/** Of what a mesh has, motes have this. */
const PLAIN: Readonly<Record<string, string>> = { uv1: 'vec2(0.0)', vertexColour: 'vec4(1.0)' };

const covers = (text: GlslText) => (text.fragment.outputs.includes('opacity') ? 'clamp(s.opacity, 0.0, 1.0)' : '1.0');

/** What is known of each mote, and what stands for what a mesh has: attributes and globals of the vertex shader. */
function moteInputs(parts: Pick<ShaderParts, 'attributes'>, globals: string): string {
  const others = parts.attributes.filter((a) => !/ (uv|mote)$/.test(a));
  const stand = others.map((a) => {
    const [type, name] = a.split(' ') as [string, string];
    return `const ${a} = ${PLAIN[name] ?? `${type}(1.0e6)`};`;
  });
  return `uniform float streak;
in vec3 corner;
in vec3 centre;
in vec3 velocity;
in vec3 mote;
in vec2 body;
${globals}
${stand.join('\n')}
out vec2 seenCorner;
out vec2 seenAway;`;
}

/** Stands each sheet where its mote is, turned to the eye, or along its way. */
const PLACE = `{
  // The eye's axes in the field's own space, which is turned and nothing else.
  mat3 eye = transpose(mat3(viewMatrix) * mat3(modelMatrix));
  seenCorner = corner.xy;
  float angle = body.y * 6.2831853;
  vec2 side = vec2(cos(angle), sin(angle));
  float reach = body.x;
  vec2 flow = vec2(dot(velocity, eye[0]), dot(velocity, eye[1]));
  float fast = length(flow);
  if (streak > 0.0 && fast > 0.0) {
    // Along its way, and as long as it goes in that time.
    side = vec2(flow.y, -flow.x) / fast;
    reach += 0.5 * streak * fast;
  }
  vec2 at = side * (corner.x * body.x) + vec2(-side.y, side.x) * (corner.y * reach);
  seenAway = at / max(body.x, 1.0e-9);
  position = centre + eye[0] * at.x + eye[1] * at.y;
  normal = eye[2];
  uv = corner.xy * 0.5 + 0.5;
  }`;

const vertexShaderOf = (parts: ShaderParts): string => `${HEAD}
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
${moteInputs(parts, 'vec3 position;\nvec3 normal;\nvec2 uv;')}
${declare('out', parts.varyings)}
flat out float clear;
${HAZE_GLSL}
${parts.vertexLibrary}
void main() {
  ${PLACE}
  ${parts.vertexBody}
  // A mote is small: what haze leaves of it is the same all over it.
  clear = hazeAmount.w < 0.5 ? 1.0 : throughHaze(cameraPosition, (modelMatrix * vec4(centre, 1.0)).xyz);
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(movedPosition, 1.0);
}`;

/** Numbers of a field that its material reads, which change without another program. */
export interface MoteUniforms {
  readonly streak: { value: number };
  readonly soft: { value: number };
}

/** Motes nearer than this to what stands behind them fade. */
const SOFT = 'clamp((texelFetch(opaqueDepth, ivec2(gl_FragCoord.xy), 0).x - depthHere()) / soft, 0.0, 1.0)';

export interface MoteMaterial {
  readonly material: Material;
  readonly uniforms: MoteUniforms;
}

/** Motes are lit where the effect says so and gives them a colour to be lit in. */
const isLit = (text: GlslText, finish: Finish): boolean =>
  finish.lighting === 'lit' && text.fragment.outputs.includes('baseColour');

/** Sheets of one field: their corners, and where each mote is, are attributes (`motes.ts`). */
export function moteMaterial(
  text: GlslText,
  finish: Finish,
  { shape: { kind: shape }, soft }: Pick<MoteField, 'shape' | 'soft'>,
  state: ProgramState,
): MoteMaterial {
  const uniforms: MoteUniforms = { streak: { value: 0 }, soft: { value: 0 } };
  const make = isLit(text, finish) ? litMotes : unlitMotes;
  const material = make({ text, finish, shape: shape as Sprite, softly: soft > 0, state, uniforms });
  material.side = DoubleSide;
  material.transparent = true;
  material.forceSinglePass = true;
  material.depthWrite = false;
  material.blending = finish.alphaMode === 'add' ? AdditiveBlending : NormalBlending;
  return { material, uniforms };
}

/** What a material of motes is made by. */
interface Making {
  readonly text: GlslText;
  readonly finish: Finish;
  readonly shape: Sprite;
  /** They fade before what stands behind them. */
  readonly softly: boolean;
  readonly state: ProgramState;
  readonly uniforms: MoteUniforms;
}

/** Lit as a surface is, by lamps with their shadows, by what glows and by what is around: each as a small matt ball. */
function litMotes({ text, finish, shape, softly, state, uniforms }: Making): Material {
  const sheets: Sheets = {
    key: ` mote ${shape} ${softly}`,
    uniforms: { ...uniforms },
    behind: softly,
    stands: moteInputs(
      shaderParts(text),
      'vec3 motePosition;\nvec3 moteNormal;\nvec2 moteUv;\n#define position motePosition\n#define normal moteNormal\n#define uv moteUv',
    ),
    place: PLACE,
    seen: 'in vec2 seenCorner;\nin vec2 seenAway;\nuniform float soft;',
    fill: softly ? `${FILLS[shape]} * ${SOFT}` : FILLS[shape],
    normal: shape === 'round' ? 'vec3(seenAway, sqrt(max(0.0, 1.0 - dot(seenAway, seenAway))))' : 'vec3(0.0, 0.0, 1.0)',
  };
  return lit(text, finish, state, sheets);
}

function unlitMotes({ text, finish, shape, softly, state, uniforms }: Making): Material {
  const { fragment } = text;
  const parts = shaderParts(text, { behind: softly });
  const added = finish.alphaMode === 'add';
  const sum = (['emission', 'baseColour'] as const).filter((name) => fragment.outputs.includes(name)).map((name) => `s.${name}`);
  const light = sum.join(' + ') || 'vec3(0.0)';
  const bounded = `clamp(light, 0.0, ${BRIGHTEST})`;
  const shown = added ? `${bounded} * clear` : `mix(hazeColour, ${bounded}, clear)`;
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: {
      ...state.sceneUniforms(true),
      ...state.imageUniforms(text),
      winding: { value: 1 },
      ...uniforms,
    },
    vertexShader: vertexShaderOf(parts),
    fragmentShader: `${HEAD}
${declare('in', parts.varyings)}
in vec2 seenCorner;
flat in float clear;
out vec4 colour;
uniform float sampleIndex;
uniform float winding;
uniform float soft;
uniform vec3 cameraPosition;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform vec3 hazeColour;
${parts.sceneText}
${functions(text, fragment)}
${FINITE_GLSL}
void main() {
  float fill = ${FILLS[shape]};
  if (fill <= 0.0) discard;
  ${softly ? `fill *= ${SOFT};` : ''}
  ${SIDE_GLSL}
  Surface s = ${callOf(fragment, 'surface')};
  vec3 light = ${light};
  colour = isFinite(light) ? vec4(${shown}, ${covers(text)} * fill) : vec4(notFiniteMark(gl_FragCoord.xy), 1.0);
}`,
  });
}
