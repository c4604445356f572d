/** The shape of an operator's record: everything the rest of Wispen knows about an operator stands in it. */
import type { Kind } from '../base/kinds.js';
import type { Builder } from '../ir/builder.js';
import type { Leaf } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';

export const FAMILIES = [
  'Where and when',
  'Values',
  'Arithmetic',
  'Shapes of time',
  'Noise',
  'Masks',
  'Colour',
  'Coordinates',
] as const;
export type Family = (typeof FAMILIES)[number];

/** Units shown beside a number. Angles are degrees in files and on screen and become radians in lowering. */
export type Unit = '' | 'm' | 's' | 'Hz' | 'deg' | 'rad' | 'turns' | 'x' | 'stops';

/**
 * The kinds an input takes: one kind; `any`, unified with every other `any` input of the strand to the widest;
 * or a list of kinds of which the linked strand's is used as it is.
 */
export type InputKind = Kind | 'any' | readonly Kind[];

export interface InputRecord {
  readonly kind: InputKind;
  /** Used when the file gives nothing: a number, components, or a place's value. */
  readonly default: number | readonly number[] | { readonly leaf: Leaf };
  readonly soft: readonly [number, number];
  readonly unit?: Unit;
  /** Absent is a meaning of its own, and giving a value changes the program: `churn`, `width`. */
  readonly optional?: boolean;
  /** A literal here is edited as hue and intensity, a vector, or a plain number. */
  readonly literal?: 'number' | 'vector' | 'colour';
  readonly note: string;
}

export interface OptionRecord {
  readonly values: readonly string[];
  readonly default: string;
  readonly note: string;
}

export interface OutputRecord {
  readonly id: string;
  /** `any`: the kind the `any` inputs were unified to. A function: from the kinds of the inputs given. */
  readonly kind: Kind | 'any' | ((given: Readonly<Record<string, Kind>>) => Kind);
  readonly note: string;
}

export interface LowerContext {
  readonly b: Builder;
  readonly options: Readonly<Record<string, string>>;
}

export interface OperatorRecord {
  readonly id: string;
  readonly label: string;
  readonly family: Family;
  /** One sentence, in an artist's words. */
  readonly summary: string;
  readonly inputs: Readonly<Record<string, InputRecord>>;
  readonly options: Readonly<Record<string, OptionRecord>>;
  /** The first is what `{ "from": id }` means. */
  readonly outputs: readonly OutputRecord[];
  readonly source?: string;
  /** Printed between its inputs in a row, for operators of two inputs. */
  readonly sign?: string;
  /** Words people may type when they look for it. */
  readonly keywords?: readonly string[];
  /** From IR nodes of the inputs (widened, converted to core units; optional ones may be undefined) to the outputs. */
  readonly lower: (context: LowerContext, inputs: Readonly<Record<string, Node>>) => Readonly<Record<string, Node>>;
}

/** The input that a strand works on: what a new one is fed, what a bypassed or deleted one lets through. */
export function mainInput({ inputs }: Pick<OperatorRecord, 'inputs'>): string | undefined {
  return 'in' in inputs ? 'in' : Object.keys(inputs)[0];
}

export interface OperatorDraft extends Omit<OperatorRecord, 'options' | 'outputs'> {
  readonly options?: OperatorRecord['options'];
  readonly outputs?: OperatorRecord['outputs'];
}

/** One output named `value` of the unified kind is the rule; records state only what differs. */
export const operator = (draft: OperatorDraft): OperatorRecord => ({
  options: {},
  outputs: [{ id: 'value', kind: 'any', note: 'the result' }],
  ...draft,
});
