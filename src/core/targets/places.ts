/**
 * Where each place comes from in a shader, for any language: which varying carries it, what else it calls on, whether a
 * vertex knows it. How that is written is a table of texts, one a language (dialects/).
 */
import { FRAME_LEAVES, LEAVES, changeIn, type Leaf } from '../ir/leaves.js';

/** What a vertex hands to the pixels, and how wide it is. */
export const VARYINGS = {
  seenPosition: 3,
  seenWorld: 3,
  seenNormal: 3,
  seenObjectNormal: 3,
  seenViewNormal: 3,
  seenView: 3,
  seenUv: 2,
  seenUv1: 2,
  seenColour: 4,
  seenEdge: 3,
  seenEdgeQuad: 3,
  seenMote: 3,
} as const;
export type VaryingName = keyof typeof VARYINGS;
/**
 * Paint is 0 to 1, and a power of it may be steep: where a pixel's middle lies beside a sliver of a triangle that it has a
 * part of, it is read within the triangle, or one such pixel would bloom over the picture.
 */
export const isReadWithin = (name: VaryingName): boolean => name === 'seenColour';

/** Attributes of the mesh beside `position` and `normal`, by the word that reads them, and how wide they are. */
export const ATTRIBUTES = {
  uv: 2,
  uv1: 2,
  /** glTF COLOR_0, 1 where the mesh has none. */
  vertexColour: 4,
  /** Each corner's distance to the side opposite to it, in its own component: metres in the prop's own space. */
  edge: 3,
  /** The same, with sides that only cut a quad in two far away. */
  edgeQuad: 3,
  /** Age 0..1, random 0..1, index. */
  mote: 3,
  /** What the mesh itself has, a metre along its tangent and its bitangent: for the normals of what is displaced. */
  objectNormalDt: 3,
  objectNormalDb: 3,
  uvDt: 2,
  uvDb: 2,
  uv1Dt: 2,
  uv1Db: 2,
  vertexColourDt: 4,
  vertexColourDb: 4,
} as const;
export type AttributeName = keyof typeof ATTRIBUTES;

/** Functions and uniforms that a place's text calls on, in the order in which they must be defined. */
export const NEEDS = ['scene', 'eye', 'ray', 'edge'] as const;
export type Need = (typeof NEEDS)[number];

/** A place itself, rather than a change of one. */
type Changed = `${string}D${'x' | 'y' | 't' | 'b'}`;
export type Place = Exclude<Leaf, Changed | 'time' | 'timeRest' | 'loop' | 'propRandom'>;

interface PlaceSource {
  readonly varying: VaryingName | null;
  readonly needs: readonly Need[];
}
const by = (varying: VaryingName, ...needs: Need[]): PlaceSource => ({ varying, needs });
const from = (...needs: Need[]): PlaceSource => ({ varying: null, needs });

const SOURCES: Readonly<Record<Place, PlaceSource>> = {
  position: by('seenPosition'),
  worldPosition: by('seenWorld'),
  normal: by('seenNormal'),
  objectNormal: by('seenObjectNormal'),
  viewNormal: by('seenViewNormal'),
  view: by('seenView'),
  uv: by('seenUv'),
  uv1: by('seenUv1'),
  vertexColour: by('seenColour'),
  facing: from(),
  screen: from('scene'),
  eyeDepth: from('scene'),
  depthGap: from('scene'),
  depthGapRay: from('scene', 'eye', 'ray'),
  depthGapDown: by('seenView', 'scene', 'eye', 'ray'),
  behind: from('scene'),
  behindPosition: from('scene', 'eye', 'ray'),
  moteAge: by('seenMote'),
  moteRandom: by('seenMote'),
  moteIndex: by('seenMote'),
  edgePixels: by('seenEdge', 'edge'),
  edgeMetres: by('seenEdge', 'edge'),
  edgePixelsQuad: by('seenEdgeQuad', 'edge'),
  edgeMetresQuad: by('seenEdgeQuad', 'edge'),
  pivot: from('eye'),
  modelX: from('eye'),
  modelY: from('eye'),
  modelZ: from('eye'),
  eyeRight: from('eye'),
  eyeUp: from('eye'),
  eyeBack: from('eye'),
  eye: from('eye'),
  lens: from('eye', 'ray'),
};

/** How a language writes places. */
export interface PlaceTexts {
  /** What the vertex shader hands on, once the vertex has moved. */
  readonly varyings: Readonly<Record<VaryingName, string>>;
  readonly places: Readonly<Record<Place, { readonly fragment: string; readonly vertex: string | null }>>;
  /** How places change along the surface, in the vertex shader; the mesh has the others as attributes. */
  readonly along: Partial<Record<Leaf, (axis: 't' | 'b') => string>>;
  /** How a pixel's value changes to the right, or upwards. */
  readonly across: (axis: 'x' | 'y', text: string) => string;
  readonly zero: (leaf: Leaf) => string;
  readonly needs: Readonly<Record<Need, string>>;
}

const placeOf = (leaf: Leaf): Place => {
  const place = changeIn(leaf)?.of ?? leaf;
  if (FRAME_LEAVES.includes(place)) throw new Error(`${leaf} is not a place of the surface`);
  return place as Place;
};
/** Changes along the surface are not known in pixels, where nothing asks for them: they take part in nothing there. */
const isAlong = (leaf: Leaf) => ['t', 'b'].includes(changeIn(leaf)?.along ?? '');

/** @throws for leaves that a frame's numbers hold */
export function fragmentText(texts: PlaceTexts, leaf: Leaf): string {
  const { fragment } = texts.places[placeOf(leaf)];
  const along = changeIn(leaf)?.along;
  if (along === 't' || along === 'b') return texts.zero(leaf);
  return along ? texts.across(along, fragment) : fragment;
}

/** @throws for places that a vertex does not know */
export function vertexText(texts: PlaceTexts, leaf: Leaf): string {
  const place = placeOf(leaf);
  const along = changeIn(leaf)?.along;
  if (along === 't' || along === 'b') return texts.along[place]?.(along) ?? leaf;
  const { vertex } = texts.places[place];
  if (vertex === null) throw new Error(`${leaf} is not known at a vertex`);
  // On the screen a vertex has no neighbours: nothing changes there, and edges are hard.
  return along ? texts.zero(leaf) : vertex;
}

/** The varyings that these places need, each once. */
export const varyingsFor = (leaves: readonly Leaf[]): VaryingName[] => [
  ...new Set(leaves.flatMap((leaf) => (isAlong(leaf) ? [] : (SOURCES[placeOf(leaf)].varying ?? [])))),
];

/** The attributes, beside position and normal, that these texts of the vertex shader read. */
export const attributesIn = (...texts: readonly string[]): AttributeName[] =>
  (Object.keys(ATTRIBUTES) as AttributeName[]).filter((name) => texts.some((t) => new RegExp(`\\b${name}\\b`).test(t)));

/** What a fragment shader's places call on. @param looksBehind whether anything looks at the scene beside its place */
export function needsOf(leaves: readonly Leaf[], looksBehind: boolean): Need[] {
  const wanted = new Set<Need>(leaves.flatMap((leaf) => (isAlong(leaf) ? [] : SOURCES[placeOf(leaf)].needs)));
  if (looksBehind || wanted.has('ray')) wanted.add('scene');
  return NEEDS.filter((n) => wanted.has(n));
}

/** Metres by which the scene lies behind what has nothing behind it. */
export const NOTHING_BEHIND = LEAVES.depthGap.fallback[0]!;
