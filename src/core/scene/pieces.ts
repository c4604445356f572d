/**
 * Pieces: what one effect is put on. A prop is one piece, until parts of it, by what they are made of, are to wear something
 * of their own: then each of those is a piece, and what is left of the prop is one.
 */
import type { Prop, Stage } from './stage.js';

type Part = Prop['parts'][number];

/** What is left of a prop beside the parts that are named: all of it where none is. */
export const WHOLE = 'all';
/** No text of a document holds it. */
const BETWEEN = '\0';

/** The id of a piece: its prop's own for what is left of it. */
export const pieceOf = (prop: string, part: string): string => (part === WHOLE ? prop : `${prop}${BETWEEN}${part}`);

/** The prop that a piece is of. */
export const propIn = (piece: string): string => piece.split(BETWEEN, 1)[0]!;

export const partIn = (piece: string): string => {
  const at = piece.indexOf(BETWEEN);
  return at < 0 ? WHOLE : piece.slice(at + 1);
};

/** The parts of a prop that are to wear something of their own, or nothing; each once. A primitive has none. */
export const namedParts = ({ source, parts }: Pick<Prop, 'source' | 'parts'>): readonly Part[] =>
  'asset' in source ? parts.filter(({ part }, k) => part !== WHOLE && parts.findIndex((p) => p.part === part) === k) : [];

/** What a piece wears. A primitive is one piece, whatever its one part is called. */
export const partOf = ({ source, parts }: Pick<Prop, 'source' | 'parts'>, part = WHOLE): Part | undefined =>
  'asset' in source ? parts.find((p) => p.part === part) : parts[0];

/** The ids of all pieces of a prop: what is left of it first. */
export const piecesOf = (prop: Pick<Prop, 'id' | 'source' | 'parts'>): string[] => [
  prop.id,
  ...namedParts(prop).map(({ part }) => pieceOf(prop.id, part)),
];

/** What a piece is called: "Lantern: Glass". */
export function pieceName(stage: Pick<Stage, 'props'>, piece: string): string {
  const name = stage.props.find((p) => p.id === propIn(piece))?.name ?? '';
  return partIn(piece) === WHOLE ? name : `${name}: ${partIn(piece)}`;
}
