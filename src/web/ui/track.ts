/** Where values stand along a slider's track. */

/** A soft range wide enough for the value: a larger value typed widens the slider. */
export function widened(low: number, high: number, value: number): [number, number] {
  return [Math.min(low, value), Math.max(high, value, low + 1e-6)];
}

/** Where values stand along a track of length 1, evenly or by their logarithms. */
export function along(low: number, high: number, log: boolean) {
  if (!log || low <= 0) return { at: (v: number) => (v - low) / (high - low), value: (at: number) => low + at * (high - low) };
  const reach = Math.log(high / low);
  return { at: (v: number) => Math.log(Math.max(v, low) / low) / reach, value: (at: number) => low * Math.exp(at * reach) };
}
