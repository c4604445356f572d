/** From where an effect was last looked at in this browser, so that a page that is loaded again shows the same. */
import { z } from 'zod';
import type { Stage } from '../core/scene/stage.js';

const vec3 = z.tuple([z.number(), z.number(), z.number()]);
const kept = z.object({
  stage: z.string(),
  viewpoint: z.string().nullable(),
  view: z.object({ eye: vec3, target: vec3, fov: z.number() }),
});
export type KeptView = z.infer<typeof kept>;

const keyOf = (effect: string) => `wispen-view ${effect}`;

export function keepView(effect: string, view: KeptView): void {
  try {
    localStorage.setItem(keyOf(effect), JSON.stringify(view));
  } catch {
    // It is only looked from elsewhere the next time.
  }
}

/** @returns null where nothing is kept, or where the effect has come to stand on another stage */
export function keptView(effect: string, stage: Pick<Stage, 'id' | 'viewpoints'>): KeptView | null {
  try {
    const found = kept.safeParse(JSON.parse(localStorage.getItem(keyOf(effect)) ?? 'null'));
    if (!found.success || found.data.stage !== stage.id) return null;
    return stage.viewpoints.some((v) => v.id === found.data.viewpoint) ? found.data : null;
  } catch {
    return null;
  }
}
