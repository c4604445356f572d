/** What fills the channel that is painted, by name: each is one step. */
import * as fills from '../core/paint/fills.js';
import { kept, type Canvas } from '../core/paint/paint.js';
import { paintProp, propOf, type Vec3 } from '../core/scene/edits.js';
import { turnedBy } from '../core/scene/placing.js';
import { restLeaves } from '../core/places/surface.js';
import { evaluatorOf } from '../core/targets/evaluate.js';
import { SURFACE_LEAVES } from '../core/ir/leaves.js';
import { numbersOf, steadyOf } from '../core/scene/worn.js';
import { canvasOfGeometry } from '../render/brush.js';
import { standOf, verticesOf } from '../render/surface.js';
import type { Bench } from './bench.js';
import type { Painting } from './painting.js';
import { putOn } from './paintPut.js';
import { painter } from './paints.js';
import { pictures } from './pictures.js';

export function alongAxis(painting: Painting, axis: 0 | 1 | 2, from: number, to: number): void {
  painting.fill(`Fill along ${'xyz'[axis]}`, (canvas) => fills.alongAxis(canvas, axis, from, to));
}

export const invert = (painting: Painting): void => painting.alter('Invert the paint', (values) => fills.inverted(values));

export const smoothAll = (painting: Painting): void =>
  painting.alter('Smooth the paint', (values, canvas) => fills.smoothed(canvas, values, 4));

/** @param gamma above 1 lightens the middle */
export const levels = (painting: Painting, low: number, high: number, gamma: number): void =>
  painting.alter('Levels of the paint', (values) => fills.levelled(values, low, high, gamma));

/** @param radius metres of the prop's own: what bends as a ball of it does is 1 or 0 */
export const fromCurvature = (painting: Painting, radius: number): void =>
  painting.fill('Paint from curvature', (canvas) => fills.fromCurvature(canvas, radius));

export const randomPerPart = (painting: Painting, seed: number): void =>
  painting.fill('A random value for each part', (canvas) => fills.randomPerPart(canvas, seed));

/** From the picked vertices, or from the prop's own middle where none is picked. @param metres of the prop's own at which it is 1 */
export function fromDistance(painting: Painting, metres: number): void {
  const { picked } = painting.store.getState();
  painting.fill('Paint from a distance', (canvas) => {
    const at = (v: number) => [0, 1, 2].map((k) => canvas.position[v * 3 + k]!) as Vec3;
    return fills.fromDistance(canvas, picked.length > 0 ? picked.map(at) : [[0, 0, 0]], metres);
  });
}

const plainly = (canvas: Canvas): Canvas => ({
  ...canvas,
  position: Float32Array.from(canvas.position),
  normal: Float32Array.from(canvas.normal),
  index: canvas.index && Uint32Array.from(canvas.index),
});

/** @param reach metres of the prop's own past which nothing stands in the way */
export async function fromOpenness(painting: Painting, reach: number): Promise<void> {
  const { canvas } = painting;
  if (!canvas) return;
  painting.store.setState({ busy: 'Looking around from every vertex' });
  const values = await painter
    .ask((p) => p.openness(plainly(canvas), reach) as Promise<Float32Array>)
    .finally(() => painting.store.setState({ busy: null }));
  if (painting.canvas === canvas) painting.fill('Paint from openness', () => values);
}

/** The strands that paint may be taken from: those of what the prop wears that are one number. */
export function strandsFor({ compiling, painting }: Pick<Bench, 'compiling' | 'painting'>): ReturnType<typeof numbersOf> {
  const { prop } = painting.store.getState();
  return prop === null ? [] : compiling.worn.numbersOn(prop);
}

/** Paints what a strand is at every vertex now: the mesh at rest, seen from where it is looked at. */
export function fromStrand(bench: Pick<Bench, 'compiling' | 'painting' | 'frames' | 'clock' | 'store'>, strand: string): void {
  const { compiling, painting, frames, clock, store } = bench;
  const { prop } = painting.store.getState();
  const all = prop === null ? [] : compiling.worn.anywhereOn(prop);
  const worn = all.find((w) => numbersOf(w).some((n) => n.id === strand));
  const of = worn && numbersOf(worn).find((n) => n.id === strand);
  const made = prop === null ? undefined : frames.view?.scenery.props.get(prop);
  if (!worn || !of || !made || !frames.view) return;
  const points = verticesOf(made.painted);
  const stand = standOf(made.whole, frames.view.camera);
  const leaves = {
    ...restLeaves(points, stand),
    ...steadyOf(store.getState().stage, prop!),
    ...{ time: [clock.time], loop: [worn.shown.loop ?? 0] },
  };
  const [values] = evaluatorOf(worn.program, [of.node], new Set(SURFACE_LEAVES), undefined, pictures).evaluate(
    worn.params,
    leaves,
    points.count,
  );
  painting.fill(`Paint from ${of.name}`, () => values![0]!);
}

/** Paints a prop from outside the Stage room: all four channels 0 at its foot and 1 at its top, as it stands. */
export async function fillHeight(session: Pick<Bench, 'frames' | 'store' | 'documents'>, id: string): Promise<void> {
  const { frames, store } = session;
  const made = frames.view?.scenery.props.get(id);
  if (!made) return;
  const canvas = canvasOfGeometry(made.plain);
  const { turn, scale } = propOf(store.getState().stage, id);
  // Which of its own axes goes up, and which way.
  const up = ([0, 1, 2] as const).map(
    (axis) => turnedBy(turn, [axis === 0 ? 1 : 0, axis === 1 ? 1 : 0, axis === 2 ? 1 : 0])[1] * Math.sign(scale[axis]),
  );
  const axis = ([0, 1, 2] as const).reduce((best, k) => (Math.abs(up[k]!) > Math.abs(up[best]!) + 1e-6 ? k : best), 1);
  const [low, high] = fills.extentOf(canvas, axis);
  const [from, to] = up[axis]! < 0 ? [high, low] : [low, high];
  const values = fills.alongAxis(canvas, axis, from, to);
  const paint = Float32Array.from({ length: canvas.vertices * 4 }, (_, k) => kept(values[k >> 2]!));
  await putOn(session, { prop: id, paint, label: 'Fill along the height' });
}

/** Takes the paint off: the mesh is read as its file has it. */
export function takeOff({ painting, documents, store }: Pick<Bench, 'painting' | 'documents' | 'store'>): void {
  const { prop } = painting.store.getState();
  if (prop === null) return;
  const { name } = propOf(store.getState().stage, prop);
  documents.editStage(`Take the paint off ${name}`, (draft) => paintProp(draft, { id: prop, asset: null }));
}
