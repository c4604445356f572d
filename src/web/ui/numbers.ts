/** Numbers as they are shown. */

/** A value that has been read: 0 where that is what rounding has left of 0. */
export const settled = (value: number): number => (Math.abs(value) < 1e-8 ? 0 : value);

/** A value that has been read, in three digits. */
export const showReading = (value: number): string => showNumber(Number(settled(value).toPrecision(3)));

/** A number as a field shows it: at most four significant decimals, no trailing zeros beyond what it has. */
export function showNumber(value: number): string {
  if (!Number.isFinite(value)) return value > 0 ? '∞' : value < 0 ? '−∞' : 'NaN';
  const size = Math.abs(value);
  const text =
    size !== 0 && (size < 0.001 || size >= 1e6)
      ? value.toExponential(2)
      : String(Number(value.toPrecision(size >= 1000 ? 6 : 4)));
  return text.replace('-', '−');
}

/** A share of 0..1 in hundredths, with a decimal where that tells. */
export const percent = (share: number): string => (share < 0.0005 ? '0 %' : `${(share * 100).toFixed(share < 0.0995 ? 1 : 0)} %`);

/** A number beside an axis: two digits, and short. */
export function tickText(value: number): string {
  const two = Number(settled(value).toPrecision(2));
  const size = Math.abs(two);
  return size !== 0 && (size < 0.001 || size >= 1e5) ? two.toExponential().replaceAll('-', '−') : showNumber(two);
}
