/** What a host must know to draw an exported shader as the stage does, beside the text: for programs to read. */
import { dialLabel } from '../effect/edits.js';
import { finishOf, literalIn } from '../effect/variant.js';
import { own } from '../base/wholesome.js';
import { outputRecord, type OutputName } from '../effect/outputs.js';
import { pictureKey, strandsOf, type Effect } from '../effect/schema.js';
import type { ImageSlot } from '../ir/types.js';
import type { Program } from '../lower/lower.js';
import { findOperator } from '../operators/catalogue.js';
import { COLOURS, blendingOf, refracts } from '../targets/ending.js';
import { ATTRIBUTES, type AttributeName } from '../targets/places.js';
import type { Slot } from '../targets/plan.js';

/** An image file beside the shader. */
export interface ImageFile {
  readonly uniform: string;
  readonly name: string;
  /** Where it lies beside the shader; null where it did not come with the effect. */
  readonly file: string | null;
  readonly wrap: ImageSlot['wrap'];
  readonly filter: ImageSlot['filter'];
  /** How its numbers are read: `srgb` is made linear, `data` and `linear` are taken as they are. */
  readonly colour: string;
  readonly rows: 'first row first';
}

const ENDINGS: Readonly<Record<string, string>> = { 'image/png': 'png', 'image/jpeg': 'jpg', 'image/webp': 'webp' };

/** The images that a shader looks up, and what their files are called. @param there whether a file came with the effect */
export function imageFiles(
  effect: Effect,
  images: ReadonlyMap<string, ImageSlot>,
  there: (sha256: string) => boolean,
): (ImageFile & { readonly sha256: string | null })[] {
  const taken = new Set<string>();
  const byKey = new Map(Object.values(effect.assets).map((asset) => [pictureKey(asset), asset]));
  const files = new Map<string, string>();
  return [...images].map(([uniform, { asset: key, wrap, filter }]) => {
    const asset = byKey.get(key);
    const has = asset !== undefined && there(asset.sha256);
    if (has && !files.has(asset.sha256)) {
      const stem =
        asset.name
          .replace(/\.[a-z]{3,4}$/i, '')
          .replace(/[^\w-]+/g, '-')
          .slice(0, 60) || 'image';
      let name = `${stem}.${ENDINGS[asset.type] ?? 'bin'}`;
      for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${stem}-${n}.${ENDINGS[asset.type] ?? 'bin'}`;
      taken.add(name.toLowerCase());
      files.set(asset.sha256, name);
    }
    return {
      ...{ uniform, name: asset?.name ?? 'none is chosen', file: has ? files.get(asset.sha256)! : null, wrap, filter },
      ...{ colour: asset?.colour ?? 'data', rows: 'first row first' as const, sha256: asset?.sha256 ?? null },
    };
  });
}

const CHANGE = (of: string) => (axis: 't' | 'b') =>
  `how ${of} changes with a metre of the mesh's own space along ${axis === 't' ? 'a tangent, tangentOf(normal)' : 'a bitangent, cross(normal, tangentOf(normal))'}; 0 where it is the same all over`;
const changes = (name: string, of: string): Record<string, string> => ({
  [`${name}Dt`]: CHANGE(of)('t'),
  [`${name}Db`]: CHANGE(of)('b'),
});
const MEANS: Readonly<Record<string, string>> = {
  position: "metres, in the mesh's own space",
  normal: 'of length 1',
  uv: 'glTF TEXCOORD_0, with y upwards: 1 - v',
  uv1: 'glTF TEXCOORD_1, with y upwards: 1 - v',
  vertexColour: 'glTF COLOR_0, linear; 1, 1, 1, 1 where the mesh has none',
  edge: "each corner's distance to the side opposite to it, metres, in its own component; corners are not shared",
  edgeQuad: 'the same, with sides that only cut a quad in two 1000 m away',
  mote: 'age 0 to 1, random 0 to 1, index',
  ...changes('objectNormal', 'the normal'),
  ...changes('uv', 'uv'),
  ...changes('uv1', 'uv1'),
  ...changes('vertexColour', 'vertexColour'),
};

/** Attributes of the vertex shader, in words. @param names beside position and normal */
export const attributesOfMesh = (names: readonly string[]) =>
  ['position', 'normal', ...names].map((name) => ({
    ...{ name, components: own(ATTRIBUTES as Record<string, number>, name as AttributeName) ?? 3, means: MEANS[name]! },
  }));

/** What a dial turns and how far, and which slots of the block follow it; none where the shader is frozen. */
function dialsOf(whole: Effect, flat: Effect, program: Program, slots: readonly Slot[]) {
  return whole.dials.map((dial) => {
    const turned = flat.dials.find((d) => d.id === dial.id) ?? dial;
    const strand = strandsOf(flat).find((s) => s.id === turned.strand);
    const option = strand && own(findOperator(strand.op)?.options, turned.input);
    const record = strand && own(findOperator(strand.op)?.inputs, turned.input);
    const word = option ? (own(strand.options, turned.input) ?? option.default) : undefined;
    return {
      ...{ id: dial.id, name: dialLabel(whole, dial), unit: dial.unit ?? record?.unit ?? '' },
      // A colour has no range: its intensity is a number beside it.
      range: option ? option.values : record?.literal === 'colour' ? null : (dial.soft ?? record?.soft ?? null),
      limits: dial.hard ?? null,
      default: word ?? literalIn(flat, turned.strand, turned.input) ?? null,
      slots: slots
        .filter(({ node }) => {
          const source = node.op === 'param' ? program.params.find((p) => p.at === node.index)?.source : undefined;
          return source?.from === 'strand' && source.strand === turned.strand && source.input === turned.input;
        })
        .map(({ name }) => name),
    };
  });
}

/** What each variant changes: its dials by name, and its finish. */
const variantsOf = (whole: Effect) =>
  whole.variants.map(({ id, name, values }) => ({
    ...{ id, name },
    values: Object.fromEntries(
      Object.entries(values).flatMap(([dial, value]) => {
        const found = whole.dials.find((d) => d.id === dial);
        return found ? [[dialLabel(whole, found), value]] : [];
      }),
    ),
    finish: finishOf(whole, id),
  }));

/** How each output is meant to be held before it is stored or blended. */
const heldOf = (outputs: readonly OutputName[]) =>
  Object.fromEntries(outputs.flatMap((name) => (outputRecord(name).held ? [[name, outputRecord(name).held]] : [])));

/**
 * @param whole the effect as it is drawn, in its variant @param flat the same without motifs
 * @param outputs of its fragments @param slots of its block
 */
export function drawingOf(whole: Effect, flat: Effect, program: Program, outputs: readonly OutputName[], slots: readonly Slot[]) {
  const { finish } = whole;
  const lit = finish.lighting === 'lit';
  const looksBehind = refracts(finish, outputs);
  return {
    effect: { id: whole.id, name: whole.name, kind: whole.kind, loop: whole.loop },
    finish,
    blending: blendingOf(finish, outputs),
    sides: finish.sides,
    depthWrite: finish.writesDepth,
    drawOrder: finish.order,
    ...(finish.alphaMode === 'mask' ? { alphaCutoff: finish.alphaCutoff } : {}),
    targets: COLOURS[finish.lighting],
    held: heldOf(outputs),
    normals: "the stage's space; the mesh's own, as displacement bends it, where the sheet gives none",
    ...(looksBehind && lit
      ? {
          light:
            'what it reflects times opacity, plus emissionOpacity.rgb: that is emission times opacity and what is seen behind times the rest',
        }
      : {}),
    dials: dialsOf(whole, flat, program, slots),
    variants: variantsOf(whole),
  };
}
