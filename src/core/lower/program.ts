/** What a sheet becomes when it is lowered. */
import type { Kind } from '../base/kinds.js';
import type { OutputName } from '../effect/outputs.js';
import type { Problem } from '../effect/read.js';
import type { Builder } from '../ir/builder.js';
import type { Interval, Node } from '../ir/types.js';
import type { Param } from './params.js';

export interface Port {
  readonly node: Node;
  readonly kind: Kind;
  /** Of a bypassed strand that hands nothing on: whoever reads it rests on its own default, as wide as this kind. */
  readonly neutral?: true;
}

export interface LoweredStrand {
  readonly id: string;
  readonly name: string;
  /** By output id; the first is the strand's value. */
  readonly ports: Readonly<Record<string, Port>>;
  readonly value: Port;
}

export interface Program {
  readonly builder: Builder;
  readonly strands: ReadonlyMap<string, LoweredStrand>;
  readonly outputs: ReadonlyMap<OutputName, Port>;
  readonly params: readonly Param[];
  /** How many live numbers there are. */
  readonly paramCount: number;
  /** Bounds of each live number, for the ranges. */
  readonly paramBounds: readonly Interval[];
  readonly problems: readonly Problem[];
  /** Equal for two programs that differ in nothing but their live numbers; what readings add to the builder later does not count. */
  readonly signature: string;
}

/** Says what is wrong, at a strand or at none. @param at a character of a text, counted from 0 */
export type Complain = (strand: string | null, code: string, message: string, at?: number) => void;
