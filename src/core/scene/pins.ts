/** Pins: probes fixed at points of a stage's props. They travel with the stage, under `extra.pins`. */
import { z } from 'zod';
import type { Stage } from './stage.js';

const vec3 = z.tuple([z.number(), z.number(), z.number()]);

const pin = z.strictObject({
  id: z.string().min(1).max(8),
  prop: z.string().min(1).max(64),
  /** In the prop's own space, before displacement. */
  position: vec3,
  normal: vec3,
  uv: z.tuple([z.number(), z.number()]),
});

export type Pin = z.infer<typeof pin>;

/** So many letters there are, and so many curves can be told apart. */
export const MAX_PINS = 6;

/** The pins of a stage; what is not a pin is passed over, for `extra` is anybody's. */
export function pinsOf(stage: Stage): Pin[] {
  const { pins } = stage.extra;
  if (!Array.isArray(pins)) return [];
  const alive = new Set(stage.props.map((p) => p.id));
  return pins
    .flatMap((p: unknown) => {
      const result = pin.safeParse(p);
      return result.success && alive.has(result.data.prop) ? [result.data] : [];
    })
    .slice(0, MAX_PINS);
}

/** The next free letter, or null when there are as many pins as there may be. */
export function freshPinId(stage: Stage): string | null {
  const taken = new Set(pinsOf(stage).map((p) => p.id));
  return [...'ABCDEF'].find((letter) => !taken.has(letter)) ?? null;
}

export function setPin(draft: Stage, { pin: placed }: { pin: Pin }): void {
  draft.extra.pins = [...pinsOf(draft).filter((p) => p.id !== placed.id), placed].sort((a, b) => a.id.localeCompare(b.id));
}

export function deletePin(draft: Stage, { id }: { id: string }): void {
  const rest = pinsOf(draft).filter((p) => p.id !== id);
  if (rest.length > 0) draft.extra.pins = rest;
  else delete draft.extra.pins;
}
