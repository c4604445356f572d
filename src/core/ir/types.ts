/** The shapes of the intermediate representation: nodes with up to four components, kernels, and loops inside kernels. */
import type { KeyTable } from '../base/keys.js';
import type { Filter, Wrap } from '../base/picture.js';
import type { Base, ScalarOp, Width } from '../base/scalar.js';
import type { Builder } from './builder.js';
import type { Leaf } from './leaves.js';

export type Type = `${Base}${Width}`;

/**
 * Operations on whole vectors that have a GLSL word of their own. They expand into scalar operations
 * (ir/composite.ts) for every other reading.
 */
export type CompositeOp = 'mix' | 'clamp' | 'fract' | 'smoothstep' | 'dot' | 'length' | 'normalize';

export type Op =
  | ScalarOp
  | CompositeOp
  | 'const' // values
  | 'param' // a literal of the live build: a number that changes without changing the program
  | 'leaf' // a place's value: time, position, uv ...
  | 'arg' // an argument of the kernel, or of the loop body, being built
  | 'join' // components of its arguments, in order
  | 'pick' // chosen components of its one argument
  | 'call' // a kernel
  | 'behind' // the scene behind, looked up beside this point: offset, blur, and its colour right behind
  | 'sample' // an image, looked up at u, v and a level
  | 'repeat' // a loop; only inside kernels
  | 'keys' // the two keys of a cue around a time; `param`s of its own
  | 'result'; // one of the values a loop ends with, or a look at keys gives

export interface Node {
  readonly id: number;
  readonly op: Op;
  readonly type: Type;
  readonly args: readonly Node[];
  /** const: the components. */
  readonly values?: readonly number[];
  /** param, arg, result: which one. */
  readonly index?: number;
  /** leaf: its name. */
  readonly leaf?: Leaf;
  /** pick: component numbers, 0 to 3. */
  readonly lanes?: readonly number[];
  /** call */
  readonly kernel?: Kernel;
  /** repeat */
  readonly loop?: Loop;
  /** sample */
  readonly image?: ImageSlot;
  /** keys */
  readonly table?: KeyTable;
}

/** An image of the document, and how it is looked up. */
export interface ImageSlot {
  /** Its content, as SHA-256, and how its numbers are read. */
  readonly asset: string;
  readonly wrap: Wrap;
  readonly filter: Filter;
}

/** `state = body(state, i)` for i = 0 .. count - 1; count at most 32. */
export interface Loop {
  readonly count: number;
  readonly state: readonly Type[];
  /** The state after one round, in terms of `arg` nodes 0 .. state.length - 1 and `arg` state.length, the float i. */
  readonly next: readonly Node[];
  /** Outer values that the body reads, seen inside as args after the counter. */
  readonly outer: readonly Type[];
  /** Equal for two loops that do the same: what tells it from others. */
  readonly content: string;
}

export interface Interval {
  readonly low: number;
  readonly high: number;
}

/** A value that grows with time, told so that nothing of it is lost however long it has run (ir/growth.ts). */
export interface Grown {
  /** The value less whole numbers of laps: as wide as it is. */
  readonly near: Node;
  /** Which components grow; so many numbers have the rates and the counts. */
  readonly lanes: readonly number[];
  /** How fast each of them does, a second. */
  readonly rates: readonly Node[];
  /** The value at time 0. */
  readonly rest: Node;
  readonly time: Node;
  readonly timeRest: Node;
  /** The laps left out of `near`: integers. */
  readonly counts: () => Node;
}

/** A function of the IR that is called rather than pasted: noise, hashes, transcendental functions. */
export interface Kernel {
  /** The name its GLSL function carries, and what tells it from every other kernel. */
  readonly name: string;
  readonly params: readonly { readonly name: string; readonly type: Type }[];
  readonly result: Type;
  /** Built on first use. */
  readonly body: () => Node;
  /** Bounds of each component of the result for these bounds of the arguments' components (arguments in a row). */
  readonly range: (args: readonly Interval[]) => Interval;
  /** False where the value jumps (hashes); such points are exempt from the continuous agreement tolerance. */
  readonly continuous: boolean;
  /**
   * How its value changes as its arguments do, where that cannot be read off the body.
   * @param changes of each argument; null where one does not change
   */
  readonly derivative?: (b: Builder, args: readonly Node[], changes: readonly (Node | null)[]) => Node;
  /**
   * How it is called where some of its arguments grow with time and whole numbers of them need not be known, or can be
   * counted apart. @param grownOf null for an argument that does not grow
   */
  readonly far?: (b: Builder, args: readonly Node[], grownOf: (arg: Node) => Grown | null) => Node | null;
  /** One sentence, printed above the GLSL function. */
  readonly note: string;
}

export const baseOf = (type: Type): Base => type[0] as Base;
export const widthOf = (type: Type): Width => (type.charCodeAt(1) - 48) as Width;
const TYPES = {
  f: ['f1', 'f1', 'f2', 'f3', 'f4'],
  i: ['i1', 'i1', 'i2', 'i3', 'i4'],
  b: ['b1', 'b1', 'b2', 'b3', 'b4'],
} as const;
export const typeOf = (base: Base, width: number): Type => TYPES[base][width]!;

/** What the `result` nodes of a loop, or of a look at keys, hold. */
export const resultTypes = (node: Node): readonly Type[] =>
  node.loop?.state ?? ['f1', 'f1', 'f1', 'f4', typeOf('f', node.table!.width), typeOf('f', node.table!.width)];
