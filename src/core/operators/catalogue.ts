/** Every operator, by id. */
import { ARITHMETIC } from './arithmetic.js';
import { COLOUR } from './colour.js';
import { COORDINATES } from './coordinates.js';
import { FUNCTIONS } from './functions.js';
import { MASKS } from './masks.js';
import { NOISE } from './noise.js';
import { PATTERNS } from './patterns.js';
import type { OperatorRecord } from './record.js';
import { SURFACE } from './surface.js';
import { TIME } from './time.js';
import { VALUES } from './values.js';
import { VECTORS } from './vectors.js';
import { WHERE } from './where.js';

export const OPERATORS: readonly OperatorRecord[] = [
  ...WHERE,
  ...VALUES,
  ...ARITHMETIC,
  ...FUNCTIONS,
  ...VECTORS,
  ...TIME,
  ...NOISE,
  ...MASKS,
  ...COLOUR,
  ...COORDINATES,
  ...PATTERNS,
  ...SURFACE,
];

const byId = new Map(OPERATORS.map((o) => [o.id, o]));

export const findOperator = (id: string): OperatorRecord | undefined => byId.get(id);

/** @throws when there is none: for ids that have been validated */
export function operatorOf(id: string): OperatorRecord {
  const found = byId.get(id);
  if (!found) throw new Error(`no operator ${id}`);
  return found;
}

/** The operator that holds a line of arithmetic. */
export const FORMULA: OperatorRecord = OPERATORS.find((o) => Object.hasOwn(o.literals, 'formula'))!;
