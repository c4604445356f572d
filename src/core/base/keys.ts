/**
 * Keys of a cue, as rows of live numbers: `time, kind of easing, two handles, value`. Found by halving, so that 256 keys
 * cost what 8 do; a key that is dragged past another is only another order of rows.
 */
export interface KeyTable {
  /** The first live number of the first row. */
  readonly at: number;
  /** Keys, 1 to 256, by rising time. */
  readonly count: number;
  /** Components of the value, 1 to 4. */
  readonly width: number;
}

/** How a key goes over to the next, as a number of its row. */
export const EASE_KINDS = { linear: 0, step: 1, curve: 2 } as const;

/** Numbers of a row before its value: time, kind, and the handles x1, y1, x2, y2. */
export const ROW_HEAD = 6;
export const rowOf = ({ width }: Pick<KeyTable, 'width'>): number => ROW_HEAD + width;

/** What a look at a table gives: from, to, kind, handles, value before, value after. */
export const lookOf = ({ width }: Pick<KeyTable, 'width'>): number => ROW_HEAD + 1 + 2 * width;

/**
 * The two keys around a time; before the first and after the last, those at that end.
 * @param numbers all live numbers
 * @param out `lookOf(table)` numbers, from `place` on, `step` apart
 */
export function lookAtKeys(
  numbers: ArrayLike<number>,
  table: KeyTable,
  time: number,
  out: Float32Array | number[],
  place = 0,
  step = 1,
): void {
  const { at, count, width } = table;
  const row = ROW_HEAD + width;
  // The last key at or before the time that has one after it.
  let low = 0;
  let high = Math.max(0, count - 2);
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (time >= numbers[at + middle * row]!) low = middle;
    else high = middle - 1;
  }
  const first = at + low * row;
  const second = at + Math.min(count - 1, low + 1) * row;
  out[place] = numbers[first]!;
  out[place + step] = numbers[second]!;
  for (let k = 1; k < ROW_HEAD; k++) out[place + (k + 1) * step] = numbers[first + k]!;
  for (let k = 0; k < width; k++) {
    out[place + (ROW_HEAD + 1 + k) * step] = numbers[first + ROW_HEAD + k]!;
    out[place + (ROW_HEAD + 1 + width + k) * step] = numbers[second + ROW_HEAD + k]!;
  }
}
