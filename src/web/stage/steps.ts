/** The step that places are held to while a thing is dragged, in metres; 0 for none. Kept in this browser. */
import { keep, kept } from '../../session/kept.js';

export const STEPS = [0, 0.01, 0.05, 0.1, 0.25] as const;

const SETTING = 'wispen.step';

export function keptStep(): number {
  const step = Number(kept(SETTING));
  return (STEPS as readonly number[]).includes(step) ? step : 0;
}
export const keepStep = (step: number): void => keep(SETTING, String(step));

/** @returns the nearest place that the step allows */
export const held = (value: number, step: number): number =>
  step > 0 ? Number((Math.round(value / step) * step).toFixed(4)) : Math.round(value * 1000) / 1000;
