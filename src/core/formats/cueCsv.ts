/**
 * Keys of a cue as comma-separated values (RFC 4180): `time,value,ease`, `time,x,y,z,ease` or `time,r,g,b,intensity,ease`.
 * Times are seconds; an easing is a name or `cubic-bezier(...)` as CSS writes it.
 */
import Papa from 'papaparse';
import { EASES, byTime, easeName, handlesOf } from '../effect/cues.js';
import { factorOf, isColour, isWritten, type Cue, type CueKey, type Ease, type Value } from '../effect/schema.js';

const AXES = ['x', 'y', 'z', 'w'];
const COLOUR = ['r', 'g', 'b', 'intensity'];

const columnsOf = (value: Value): string[] =>
  isColour(value) ? COLOUR : Array.isArray(value) ? AXES.slice(0, value.length) : ['value'];

function cellsOf(value: Value): (number | string)[] {
  if (isWritten(value)) return [value.text];
  if (isColour(value)) return [...value.rgb, factorOf(value.intensity, value.unit)];
  if (Array.isArray(value)) return value;
  return [typeof value === 'number' ? value : value === true ? 1 : 0];
}

/** An easing as CSS writes it; one that stays until the next key as `hold`. */
export function easeText(ease: Ease): string {
  const name = easeName(ease);
  return name === 'free'
    ? `cubic-bezier(${handlesOf(ease)
        .map((v) => Number(v.toFixed(4)))
        .join(', ')})`
    : name;
}

/** @returns null where it is none */
export function readEase(text: string): Ease | null {
  const word = text.trim().toLowerCase();
  const named = Object.hasOwn(EASES, word) ? EASES[word as keyof typeof EASES] : undefined;
  if (named !== undefined) return typeof named === 'string' ? named : [...named];
  if (word === 'steps(1)' || word === 'step-end') return 'step';
  const inside = /^cubic-bezier\(([^)]*)\)$/.exec(word)?.[1];
  const numbers = inside?.split(',').map((n) => (n.trim() === '' ? NaN : Number(n)));
  if (numbers?.length !== 4 || !numbers.every(Number.isFinite)) return null;
  const [a, b, c, d] = numbers as [number, number, number, number];
  return a >= 0 && a <= 1 && c >= 0 && c <= 1 ? [a, b, c, d] : null;
}

export function writeCueCsv({ keys }: Pick<Cue, 'keys'>): string {
  const sorted = byTime(keys);
  const fields = ['time', ...columnsOf(sorted[0]!.value), 'ease'];
  return `${Papa.unparse({ fields, data: sorted.map((k) => [k.time, ...cellsOf(k.value), easeText(k.ease)]) }, { newline: '\n' })}\n`;
}

export type ReadCsv = { readonly ok: true; readonly keys: CueKey[] } | { readonly ok: false; readonly why: string };

/**
 * @param like a value of the dial, whose form the keys are to have
 * @param words those that the keys of an option may have
 */
export function readCueCsv(text: string, like: Value, words: readonly string[] = []): ReadCsv {
  const no = (why: string): ReadCsv => ({ ok: false, why });
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: true,
    transformHeader: (h) => h.trim().toLowerCase(),
  });
  const columns = columnsOf(like);
  const lacking = ['time', ...columns].filter((c) => c !== 'intensity' && !meta.fields?.includes(c));
  if (lacking.length > 0)
    return no(`The first line has to name ${['time', ...columns, 'ease'].join(', ')}; ${lacking.join(', ')} is missing.`);
  const keys: CueKey[] = [];
  for (const [k, row] of data.entries()) {
    const number = (name: string): number => (row[name] === undefined || row[name].trim() === '' ? NaN : Number(row[name]));
    const time = number('time');
    const word = row.value?.trim() ?? '';
    if (isWritten(like) && !words.includes(word)) return no(`Line ${k + 2}: “${word}” is none of ${words.join(', ')}.`);
    const numbers = isWritten(like) ? [] : columns.map((c) => (c === 'intensity' && !meta.fields!.includes(c) ? 1 : number(c)));
    const bad = [time, ...numbers].findIndex((n) => !Number.isFinite(n) || Math.abs(n) > 1e9);
    if (bad >= 0)
      return no(
        `Line ${k + 2}: ${['time', ...columns][bad]} is “${row[['time', ...columns][bad]!] ?? ''}”, which is no number that a key can have.`,
      );
    const ease = row.ease === undefined || row.ease.trim() === '' ? 'linear' : readEase(row.ease);
    if (ease === null) return no(`Line ${k + 2}: “${row.ease}” is no easing.`);
    const [r, g, b, intensity] = numbers as [number, number, number, number];
    const value: Value = isWritten(like)
      ? { text: word }
      : isColour(like)
        ? { rgb: [r, g, b], intensity, unit: 'factor' }
        : Array.isArray(like)
          ? numbers
          : numbers[0]!;
    keys.push({ time, value, ease: isWritten(like) ? 'step' : ease });
  }
  if (keys.length === 0) return no('There is no key in it.');
  return { ok: true, keys: byTime(keys) };
}
