/** Neighbours among 32-bit floats (IEEE 754 binary32). */
const view = new DataView(new ArrayBuffer(4));

/** The next float above; what is no float is rounded to one first. */
export function nextUp(x: number): number {
  const v = Math.fround(x);
  if (v !== v || v === Infinity) return v;
  if (v === 0) return 2 ** -149;
  view.setFloat32(0, v);
  view.setInt32(0, view.getInt32(0) + (v > 0 ? 1 : -1));
  return view.getFloat32(0);
}

/** The next float below. */
export const nextDown = (x: number): number => -nextUp(-x);
