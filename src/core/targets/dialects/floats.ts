/** Floats as text. */

/** The same few numbers are printed again and again. -0 and 0 are one key, and one text. */
const known = new Map<number, string>();

/** The shortest decimal that reads back as the same 32-bit float, with a point or an exponent. @param value finite */
export function shortestFloat(value: number): string {
  let text = known.get(value);
  if (text !== undefined) return text;
  text = String(value);
  for (let digits = 1; digits <= 9; digits++) {
    const candidate = value.toPrecision(digits);
    if (Math.fround(Number(candidate)) === value) {
      text = String(Number(candidate));
      break;
    }
  }
  if (!/[.e]/.test(text)) text += '.0';
  if (known.size > 10_000) known.clear();
  known.set(value, text);
  return text;
}
