/** Small live pictures of operators for the picker: each applied to noise and a ramp over the unit square. */
import { readEffect } from '../../../core/effect/read.js';
import type { Leaf } from '../../../core/ir/leaves.js';
import { evaluatorOf } from '../../../core/targets/evaluate.js';
import { freshUse } from '../../../core/effect/motifEdits.js';
import type { Motif } from '../../../core/effect/schema.js';
import { lower } from '../../../core/lower/lower.js';
import { paramValues } from '../../../core/lower/params.js';
import { EXAMPLE_TRIGGERS, exampleOf } from '../../../core/operators/examples.js';
import { paintSwatch } from '../../../workers/swatch.js';

export const PREVIEW_WIDTH = 80;
export const PREVIEW_HEIGHT = 56;
const COUNT = PREVIEW_WIDTH * PREVIEW_HEIGHT;
const made = new Map<string, ImageData>();

function plane(f: (u: number, v: number) => number): Float32Array {
  const values = new Float32Array(COUNT);
  for (let k = 0; k < COUNT; k++)
    values[k] = f(((k % PREVIEW_WIDTH) + 0.5) / PREVIEW_WIDTH, 1 - (Math.floor(k / PREVIEW_WIDTH) + 0.5) / PREVIEW_HEIGHT);
  return values;
}

let dome: Partial<Record<Leaf, Float32Array[]>> | null = null;

/** A dome seen from the front, so that normals and views have something to show. The same for all pictures: made once. */
const places = (): Partial<Record<Leaf, Float32Array[]>> => (dome ??= placesOfDome());

function placesOfDome(): Partial<Record<Leaf, Float32Array[]>> {
  const x = (u: number) => (u - 0.5) * 2 * (PREVIEW_WIDTH / PREVIEW_HEIGHT);
  const y = (v: number) => (v - 0.5) * 2;
  const position = [plane((u) => x(u)), plane((_, v) => y(v)), plane(() => 0)];
  const z = (u: number, v: number) => Math.sqrt(Math.max(0, 1 - Math.min(1, x(u) ** 2 + y(v) ** 2)));
  const normal = [plane((u) => x(u)), plane((_, v) => y(v)), plane(z)];
  const view = [plane(() => 0), plane(() => 0), plane(() => 1)];
  const uv = [plane((u) => u), plane((_, v) => v)];
  const still = (value: number) => plane(() => value);
  const zero = still(0);
  // A sill lies behind the dome: near at its foot, far at its top.
  const gap = plane((_, v) => 0.05 + v * 0.9);
  const behind = [plane((u, v) => (Math.floor(u * 10) + Math.floor(v * 7)) % 2), plane((u) => u), plane((_, v) => v)];
  const edge = plane((u, v) => 2 * Math.min(Math.abs(((u * 5) % 1) - 0.5), Math.abs(((v * 4) % 1) - 0.5)));
  const [du, dv] = [1 / PREVIEW_WIDTH, 1 / PREVIEW_HEIGHT];
  return {
    ...{ position, worldPosition: position, normal, objectNormal: normal, viewNormal: normal, view, uv, uv1: uv },
    ...{ uvDx: [still(du), zero], uvDy: [zero, still(dv)], screen: uv, behind, edgePixels: [edge], edgePixelsQuad: [edge] },
    ...{ worldPositionDx: [still(2 * du), zero, zero], worldPositionDy: [zero, still(2 * dv), zero] },
    ...{ positionDx: [still(2 * du), zero, zero], positionDy: [zero, still(2 * dv), zero] },
    ...{ depthGap: [gap], depthGapRay: [gap], depthGapDown: [gap], eyeDepth: [plane((_, v) => 0.2 + 0.7 * v)] },
    ...{ behindPosition: [plane((u) => u), plane((_, v) => v), still(0.3)], vertexColour: [...behind, still(1)] },
    ...{ facing: [plane((u) => (u > 0.5 ? 1 : 0))], moteAge: [plane((u) => u)], lens: [still(1), still(1)] },
  };
}

/** Draws a strand of a small sheet. */
function drawn(effect: object, strand: string): ImageData {
  const out = new ImageData(PREVIEW_WIDTH, PREVIEW_HEIGHT);
  const read = readEffect({ format: 'wispen-effect', version: 1, id: 'preview', name: 'preview', ...effect });
  if (!read.ok) return out;
  const program = lower(read.effect, { build: 'live' });
  const { node, kind } = program.strands.get(strand)!.value;
  const leaves = places();
  const evaluator = evaluatorOf(program, [node], new Set(Object.keys(leaves) as Leaf[]));
  const [planes] = evaluator.evaluate(paramValues(program.params, read.effect), { ...leaves, time: [0.3], loop: [4] }, COUNT);
  paintSwatch(kind, planes!, new Float32Array(COUNT).fill(1), PREVIEW_WIDTH, out.data);
  return out;
}

export function previewOf(op: string): ImageData {
  const found = made.get(op);
  if (found) return found;
  const out = drawn({ strands: exampleOf(op), triggers: EXAMPLE_TRIGGERS }, 'shown');
  made.set(op, out);
  return out;
}

const motifs = new WeakMap<Motif, ImageData>();

/** What a motif makes of its inputs as a new use has them. */
export function previewOfMotif(motif: Motif): ImageData {
  let found = motifs.get(motif);
  if (!found) motifs.set(motif, (found = drawn({ strands: [freshUse(motif, 'shown', motif.name)], motifs: [motif] }, 'shown')));
  return found;
}
