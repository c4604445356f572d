/** One WGSL module for an effect: a vertex and a fragment stage, for other programs. */
import { LEAVES } from '../ir/leaves.js';
import { typeOf, type ImageSlot } from '../ir/types.js';
import type { Finish } from '../effect/schema.js';
import type { OutputName } from '../effect/outputs.js';
import type { Program } from '../lower/lower.js';
import { WGSL, WGSL_BITS, wgslType } from './dialects/wgsl.js';
import { DITHER_WGSL } from './dialects/dither.js';
import { WGSL_ALONG, WGSL_EYE, WGSL_PLACES, WGSL_TURNED } from './dialects/wgslPlaces.js';
import { COLOURS, endingOf, holeText, throughText } from './ending.js';
import {
  ATTRIBUTES,
  VARYINGS,
  attributesIn,
  fragmentText,
  needsOf,
  isReadWithin,
  varyingsFor,
  type VaryingName,
  vertexText,
  type AttributeName,
  type Need,
} from './places.js';
import { neutralText, planOf, printFunction, type ShaderFunction, type ShaderPlan } from './plan.js';
import { indent, type Library } from './printer.js';
import { commentOf } from './reserved.js';

export interface WgslText extends Pick<ShaderPlan, 'slots' | 'vec4s' | 'frame'> {
  /** Both stages: `vertexMain` and `fragmentMain`. */
  readonly module: string;
  /** Vertex attributes in the order of their locations. */
  readonly attributes: readonly { readonly name: string; readonly width: number }[];
  /** Images in the order of their bindings in group 2: each a texture and a sampler. */
  readonly images: ReadonlyMap<string, ImageSlot>;
  readonly needs: readonly Need[];
  /** What its fragments give. */
  readonly outputs: readonly OutputName[];
  /** How many colours the fragment stage writes. */
  readonly targets: number;
}

const vector = (width: number) => wgslType(typeOf('f', width));
const ALONG = ['alongTangent', 'alongBitangent'] as const;
/** Names that are the module's own: no strand's variable hides them. */
const TAKEN: readonly string[] = [
  ...Object.keys(LEAVES),
  ...ALONG,
  ...['effect', 'eye', 'seen', 'side', 'turned', 'tangent', 'bitangent', 'moved', 'anyBits', 'pixelAt', 'axesOf', 'turnedOf'],
  ...[
    'mixed',
    'scatter',
    'mesh',
    'opaqueColour',
    'opaqueDepth',
    'opaqueSampler',
    'rowsDown',
    'vertexMain',
    'fragmentMain',
    'worldNormal',
  ],
  ...[
    'divide2',
    'divide3',
    'divide4',
    'unit2',
    'unit3',
    'unit4',
    'window2',
    'window3',
    'window4',
    'movedPosition',
    'movedNormal',
  ],
];

interface Stage {
  readonly library: Library;
  readonly code: string;
  readonly stage: ShaderFunction;
}

function functionText(plan: ShaderPlan, stage: ShaderFunction, name: 'surface' | 'displacement'): Stage {
  const { library, statements, results } = printFunction(plan, stage, WGSL, TAKEN, 'effect.');
  const struct = name === 'surface' ? 'Surface' : 'Moved';
  const fields = [
    ...stage.outputs.map(({ name: n, node }) => `${n}: ${wgslType(node.type)},`),
    ...stage.bend.map((_, k) => `${ALONG[k]!}: vec3f,`),
  ];
  const args = stage.places.map((leaf) => `${leaf}: ${wgslType(LEAVES[leaf].type)}`).join(', ');
  const whole = fields.length > 0 ? fields : ['nothing: f32,'];
  const body = [...statements, `return ${struct}(${fields.length > 0 ? results.join(', ') : '0.0'});`];
  const code = `struct ${struct} {\n${indent(whole)}\n};\n\nfn ${name}(${args}) -> ${struct} {\n${indent(body)}\n}`;
  return { library, code, stage };
}

/** What of two stages' libraries is not in the first already: one module defines a function once. */
function definitions(stages: readonly Stage[]): string[] {
  return [...new Set(stages.flatMap(({ library }) => library.definitions))];
}

/** What holds the vertices where they are, or moves them: it leaves `movedPosition` and `movedNormal`. */
function movement(displacement: ShaderFunction | null): string[] {
  if (!displacement) return ['let movedPosition = position;', 'let movedNormal = normal;'];
  const places = displacement.places.map((leaf) => vertexText(WGSL_PLACES, leaf));
  const bends = displacement.bend.length > 0;
  return [
    ...(bends ? ['let tangent = tangentOf(normal);', 'let bitangent = cross(normal, tangent);'] : []),
    `let moved = displacement(${places.join(', ')});`,
    'let movedPosition = position + moved.displacement;',
    ...(bends
      ? [
          'let bent = cross(tangent + moved.alongTangent, bitangent + moved.alongBitangent);',
          'let movedNormal = select(normal, normalize(bent), dot(bent, bent) > 0.0);',
        ]
      : ['let movedNormal = normal;']),
  ];
}

/** Every surface value has a place in one of four colours; unconnected ones have the neutral value. */
function stores(outputs: readonly OutputName[], finish: Finish): string[] {
  const lit = finish.lighting === 'lit';
  const ending = endingOf(outputs, finish);
  const value = (name: OutputName) => (outputs.includes(name) ? `s.${name}` : neutralText(WGSL, name, lit));
  const [emission, base, opacity] = [value('emission'), value('baseColour'), value('opacity')];
  const through = (own: string) => throughText(finish, outputs, own, opacity);
  if (!lit) return [`vec4f(${through(`${emission} + ${base}`)}, ${ending.refracts ? '1.0' : opacity})`];
  return [
    `vec4f(${through(emission)}, ${opacity})`,
    `vec4f(${base}, ${value('metalness')})`,
    `vec4f(${ending.meshNormal ? 'normalize(seen.seenNormal) * side' : value('normal')}, ${value('roughness')})`,
    `vec4f(${value('reflectance')}, ${value('occlusion')}, 0.0, 0.0)`,
  ];
}
/** What leaves fragments out, for a finish with holes. */
function holes(outputs: readonly OutputName[], finish: Finish): string[] {
  const hole = holeText(finish, outputs, finish.alphaCutoff.toFixed(4), 'seen.seenPosition');
  return hole === null ? [] : [`if (${hole}) { discard; }`];
}

/** What a vertex hands on, and how it is read between vertices. */
const seen = (name: VaryingName, k: number): string =>
  `@location(${k})${isReadWithin(name) ? ' @interpolate(perspective, centroid)' : ''} ${name}: ${vector(VARYINGS[name])},`;

/** @param note written above it, as comment */
export function emitWgsl(program: Program, finish: Finish, note: string): WgslText {
  const lit = finish.lighting === 'lit';
  // It stands alone: its block holds time and plain numbers, nothing computed elsewhere.
  const plan = planOf(program, { hoist: false, lit });
  const surface = functionText(plan, plan.surface, 'surface');
  const displacement = plan.displacement && functionText(plan, plan.displacement, 'displacement');
  const stages = displacement ? [displacement, surface] : [surface];

  const { places, outputs } = plan.surface;
  const names = outputs.map(({ name }) => name);
  const ending = endingOf(names, finish);
  const varyings = [...new Set([...varyingsFor(places), ...ending.varyings])];
  const fills = varyings.map((v) => `seen.${v} = ${WGSL_PLACES.varyings[v]};`);
  const vertexBody = [...movement(plan.displacement), 'let worldNormal = normalize(turned * movedNormal);', ...fills];
  const attributes = [
    { name: 'position', width: 3 },
    { name: 'normal', width: 3 },
    ...attributesIn(...vertexBody).map((name: AttributeName) => ({ name, width: ATTRIBUTES[name] })),
  ];
  const needs = needsOf(places, ending.refracts || /\bsceneBehind\(/.test(surface.code));
  const arguments_ = places.map((leaf) => fragmentText(WGSL_PLACES, leaf));
  const usesSide = ending.meshNormal || arguments_.some((text) => /\bside\b/.test(text));
  const images = new Map(stages.flatMap(({ library }) => [...library.images]));
  const targets = COLOURS[finish.lighting];
  const pieces = [
    commentOf(note),
    lit
      ? '// Lit: the four colours hold what the surface is, for a renderer to light.'
      : '// Unlit: the colour as it is, scene-linear and unbounded.',
    'diagnostic(off, derivative_uniformity);',
    `struct Effect {\n  k: array<vec4f, ${plan.vec4s}>,\n};\n@group(0) @binding(0) var<uniform> effect: Effect;`,
    WGSL_EYE,
    [WGSL_BITS, 'var<private> pixelAt: vec4f;'].join('\n'),
    [...images].map(([name, slot], k) => WGSL.image(name, slot, k)).join('\n'),
    needs
      .map((n) => WGSL_PLACES.needs[n])
      .filter(Boolean)
      .join('\n'),
    WGSL_TURNED,
    plan.displacement && plan.displacement.bend.length > 0 ? WGSL_ALONG : '',
    ending.dithers ? DITHER_WGSL : '',
    ...definitions(stages),
    ...stages.map((s) => s.code),
    `struct Mesh {\n${indent(attributes.map(({ name, width }, k) => `@location(${k}) ${name}: ${vector(width)},`))}\n};`,
    `struct Seen {\n${indent(['@builtin(position) at: vec4f,', ...varyings.map(seen)])}\n};`,
    `struct Drawn {\n${indent(targets.map((t, k) => `@location(${k}) ${t}: vec4f,`))}\n};`,
    `@vertex\nfn vertexMain(mesh: Mesh) -> Seen {\n${indent([
      ...attributes.map(({ name }) => `let ${name} = mesh.${name};`),
      'let turned = turnedOf(eye.model);',
      'var seen: Seen;',
      ...vertexBody,
      'seen.at = eye.projection * eye.view * eye.model * vec4f(movedPosition, 1.0);',
      'return seen;',
    ])}\n}`,
    `@fragment\nfn fragmentMain(seen: Seen, @builtin(front_facing) front: bool) -> Drawn {\n${indent([
      'pixelAt = seen.at;',
      ...(usesSide ? ['let side = select(-1.0, 1.0, front);'] : []),
      `let s = surface(${arguments_.join(', ')});`,
      ...holes(names, finish),
      `return Drawn(${stores(names, finish).join(', ')});`,
    ])}\n}`,
  ];
  // Directives come before everything else; comments may precede them.
  return {
    module: `${pieces.filter(Boolean).join('\n\n')}\n`,
    ...{
      slots: plan.slots,
      vec4s: plan.vec4s,
      frame: plan.frame,
      attributes,
      images,
      needs,
      outputs: names,
      targets: targets.length,
    },
  };
}
