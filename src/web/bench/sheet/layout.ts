/** Where everything on the sheet stands: rows, section heads, opened parts; in pixels from the sheet's top. */
import { motifOf, withinOf } from '../../../core/effect/motifs.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { isLink, strandsOf, type Effect, type Strand } from '../../../core/effect/schema.js';
import { rampOf } from '../../../core/lower/params.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import type { InputRecord } from '../../../core/operators/record.js';
import { settled } from '../../ui/numbers.js';
import { linesOf, noteWidth } from './textWidth.js';

/** Above the first row. */
export const TOP = 4;
export const ROW = 28;
export const SECTION = 24;
const INPUT_ROW = 25;

export type Item =
  | {
      readonly type: 'section';
      readonly first: string;
      readonly title: string;
      readonly count: number;
      readonly folded: boolean;
      readonly y: number;
      readonly height: number;
    }
  | {
      readonly type: 'strand';
      readonly strand: Strand;
      readonly rank: number;
      readonly opened: boolean;
      readonly y: number;
      readonly height: number;
    };

export interface Layout {
  readonly items: readonly Item[];
  readonly height: number;
  /** Where a strand's threads meet its row: the row's middle, or its folded section's. */
  readonly anchor: ReadonlyMap<string, number>;
}

/** The inputs that have a line: a formula's letters only where it uses them. */
export function shownInputs(effect: Effect, strand: Strand): string[] {
  const { inputs, literals } = recordOf(effect, strand);
  const names = Object.keys(inputs);
  return literals.formula ? names.filter((n) => strand.inputs?.[n] !== undefined) : names;
}

/** Pixels that a strand's literals take in its opened row. */
export function literalsHeight(strand: Strand): number {
  return Object.entries(operatorOf(strand.op).literals).reduce((sum, [name, { form }]) => {
    if (form === 'ramp') return sum + 30 + INPUT_ROW * (rampOf(strand, name).stops.length + 1);
    return sum + (form === 'image' ? 2 : 1) * INPUT_ROW;
  }, 0);
}

/** The lines that an input takes: four numbers of its own stand in two. */
export function inputRows(strand: Strand, name: string, { default: rest }: Pick<InputRecord, 'default'>): number {
  const input = strand.inputs?.[name];
  const value = isLink(input) ? undefined : (input?.value ?? rest);
  return Array.isArray(value) && value.length > 3 ? 2 : 1;
}

/** What an opened row says: its note, or what its operation does. */
export const wordsOf = (effect: Effect, strand: Strand): string => strand.note || recordOf(effect, strand).summary;

/** Pixels of the column of those words. */
const WORDS = 336;
const WORDS_LINE = 16;

/** Pixels that those words take, all of them. */
export const wordsHeight = (effect: Effect, strand: Strand): number =>
  6 + WORDS_LINE * linesOf(wordsOf(effect, strand), WORDS, noteWidth);

/** Pixels of a strand within a motif, in the list of them. */
export const WITHIN_ROW = 28;
/** What is opened where the strands within a use are shown too. */
export const insideOf = (use: string): string => withinOf(use, '');

/** What an opened row adds: lines of words, its inputs, a line of keys; never less than its curve needs. */
export function openedHeight(effect: Effect, strand: Strand, inside = false): number {
  const operator = recordOf(effect, strand);
  const inputs = shownInputs(effect, strand).reduce((sum, name) => sum + inputRows(strand, name, operator.inputs[name]!), 0);
  const lines = inputs + Object.keys(operator.options).length;
  const motif = motifOf(effect, strand);
  if (motif) {
    const outputs = INPUT_ROW * operator.outputs.length;
    const within = inside ? WITHIN_ROW * motif.strands.length + 6 : 0;
    return wordsHeight(effect, strand) + INPUT_ROW + Math.max(lines * INPUT_ROW, outputs) + 30 + within;
  }
  return wordsHeight(effect, strand) + Math.max(96, 2 + lines * INPUT_ROW + literalsHeight(strand) + 28);
}

/** What stands under a row that has an error: two lines, and what would mend it. */
const troubleHeight = (trouble: { readonly mends: boolean } | undefined): number => (trouble ? 46 + (trouble.mends ? 28 : 0) : 0);

export function layOut(
  effect: Effect,
  opened: ReadonlySet<string>,
  folded: ReadonlySet<string>,
  troubled: ReadonlyMap<string, { readonly mends: boolean }>,
): Layout {
  const items: Item[] = [];
  const anchor = new Map<string, number>();
  const heads = new Map(effect.sections.map((s) => [s.first, s]));
  const strands = strandsOf(effect);
  let y = TOP;
  let hiddenAt: number | null = null;
  strands.forEach((strand, rank) => {
    const head = heads.get(strand.id);
    if (head) {
      const isFolded = folded.has(head.first);
      let count = 1;
      while (rank + count < strands.length && !heads.has(strands[rank + count]!.id)) count++;
      items.push({ type: 'section', first: head.first, title: head.title, count, folded: isFolded, y, height: SECTION });
      hiddenAt = isFolded ? y + SECTION / 2 : null;
      y += SECTION;
    }
    if (hiddenAt !== null) {
      anchor.set(strand.id, hiddenAt);
      return;
    }
    const isOpened = opened.has(strand.id);
    const height =
      ROW +
      (isOpened ? openedHeight(effect, strand, opened.has(insideOf(strand.id))) : 0) +
      troubleHeight(troubled.get(strand.id));
    items.push({ type: 'strand', strand, rank, opened: isOpened, y, height });
    anchor.set(strand.id, y + ROW / 2);
    y += height;
  });
  return { items, height: y + 12, anchor };
}

/** A range's end in few letters: `.55`, `−1`, `61`, `12k`, `∞`. */
export function shortNumber(value: number): string {
  if (!Number.isFinite(value)) return value > 0 ? '∞' : '−∞';
  const size = Math.abs(settled(value));
  const digits =
    size >= 1e6
      ? `${Number((size / 1e6).toPrecision(2))}M`
      : size >= 1000
        ? `${Number((size / 1000).toPrecision(2))}k`
        : String(Number(size.toPrecision(size < 10 ? 2 : 3)));
  const text = digits.startsWith('0.') ? digits.slice(1) : digits;
  return value < 0 && Number(size.toPrecision(2)) !== 0 ? `−${text}` : text;
}
