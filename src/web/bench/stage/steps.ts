/** The step that places are held to while a thing is dragged, in metres; 0 for none. Kept in this browser. */
export const STEPS = [0, 0.01, 0.05, 0.1, 0.25] as const;

const KEY = 'wispen-step';

export function keptStep(): number {
  try {
    const kept = Number(localStorage.getItem(KEY));
    return (STEPS as readonly number[]).includes(kept) ? kept : 0;
  } catch {
    return 0;
  }
}

export function keepStep(step: number): void {
  try {
    localStorage.setItem(KEY, String(step));
  } catch {
    // It is none again when the page is loaded.
  }
}

/** @returns the nearest place that the step allows */
export const held = (value: number, step: number): number =>
  step > 0 ? Number((Math.round(value / step) * step).toFixed(4)) : Math.round(value * 1000) / 1000;
