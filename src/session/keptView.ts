/** From where an effect was last looked at in this browser, so that a page that is loaded again shows the same. */
import { z } from 'zod';
import type { Stage } from '../core/scene/stage.js';
import { keep, kept } from './kept.js';

const vec3 = z.tuple([z.number(), z.number(), z.number()]);
const shape = z.object({
  stage: z.string(),
  viewpoint: z.string().nullable(),
  view: z.object({ eye: vec3, target: vec3, fov: z.number(), lensBend: z.number().optional() }),
});
export type KeptView = z.infer<typeof shape>;

const nameOf = (effect: string) => `wispen.view.${effect}`;

export const keepView = (effect: string, view: KeptView): void => keep(nameOf(effect), JSON.stringify(view));

/** @returns null where nothing is kept, or where the effect has come to stand on another stage */
export function keptView(effect: string, stage: Pick<Stage, 'id' | 'viewpoints'>): KeptView | null {
  const text = kept(nameOf(effect));
  if (text === null) return null;
  try {
    const found = shape.safeParse(JSON.parse(text));
    if (!found.success || found.data.stage !== stage.id) return null;
    return stage.viewpoints.some((v) => v.id === found.data.viewpoint) ? found.data : null;
  } catch {
    return null;
  }
}

/** Metres by which a view may lie beside its viewpoint: less is not seen. */
const BESIDE = 1e-3;

/** Whether one has gone on from a viewpoint. */
export const isAway = (view: KeptView['view'], from: Stage['viewpoints'][number]): boolean =>
  (['eye', 'target'] as const).some((at) => view[at].some((v, k) => Math.abs(v - from[at][k]!) > BESIDE));
