/** What a sheet becomes when it is lowered. */
import { kindOfPart, type Kind } from '../base/kinds.js';
import { own } from '../base/wholesome.js';
import type { OutputName } from '../effect/outputs.js';
import type { Problem } from '../effect/read.js';
import type { Link } from '../effect/schema.js';
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
  /**
   * What readings and shaders have made of its nodes, without what its numbers rule out; where numbers turn, the same.
   */
  readonly plainer: (nodes: readonly Node[]) => readonly Node[];
}

/** Says what is wrong, at a strand or at none. @param at a character of a text, counted from 0 */
export type Complain = (strand: string | null, code: string, message: string, at?: number) => void;

/** The kind of what a link brings; undefined where its strand or its port is not there. */
export function kindOfLink({ strands }: Pick<Program, 'strands'>, { from, port, part }: Link): Kind | undefined {
  const strand = strands.get(from);
  const kind = (port === undefined ? strand?.value : own(strand?.ports, port))?.kind;
  return kind !== undefined && part !== undefined ? kindOfPart(kind, part) : kind;
}
