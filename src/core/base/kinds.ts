/** The kinds of value a strand can carry, and how one goes into another. */
import type { Width } from './scalar.js';

/** `1` a number; `2` `3` `4` vectors; `rgb` a linear Rec.709 colour, three numbers with a colour editor. */
export type Kind = '1' | '2' | '3' | '4' | 'rgb';

export const widthOfKind = (kind: Kind): Width => (kind === 'rgb' ? 3 : (Number(kind) as Width));
export const kindOfWidth = (width: number): Kind => String(width) as Kind;

const WORDS: Record<Kind, string> = {
  '1': 'one number',
  '2': 'two numbers',
  '3': 'three numbers',
  '4': 'four numbers',
  rgb: 'a colour',
};
export const kindInWords = (kind: Kind): string => WORDS[kind];

/** A number widens to any vector; `rgb` and `3` interchange; nothing else goes without a pick or a join. */
export const goesInto = (from: Kind, to: Kind): boolean => from === '1' || widthOfKind(from) === widthOfKind(to);

/** The kind of some components of a value: `xy`, `rgb`. */
export const kindOfPart = (kind: Kind, part: string): Kind =>
  kind === 'rgb' && part.length === 3 ? 'rgb' : kindOfWidth(part.length);
