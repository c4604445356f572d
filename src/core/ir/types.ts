/** The shapes of the intermediate representation: nodes with up to four components, kernels, and loops inside kernels. */
import type { KeyTable } from '../base/keys.js';
import type { Filter, Wrap } from '../base/picture.js';
import type { Leaf } from './leaves.js';
import { typeOf, type Op, type Type } from './shape.js';

export { baseOf, typeOf, widthOf, type CompositeOp, type Op, type Type } from './shape.js';

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

/** The builder (ir/builder.ts), as far as these shapes know of it: it knows them. */
export interface Building {
  readonly nodes: readonly Node[];
}

/** A function of the IR that is called rather than pasted: noise, hashes, transcendental functions. */
export interface Kernel {
  /** The name its GLSL function carries, and what tells it from every other kernel. */
  readonly name: string;
  readonly params: readonly { readonly name: string; readonly type: Type }[];
  readonly result: Type;
  /** Built on first use. */
  readonly body: () => Node;
  /**
   * Bounds of every component of the result, or of each in a list, for these bounds of the arguments' components (arguments
   * in a row).
   */
  readonly range: (args: readonly Interval[]) => Interval | readonly Interval[];
  /** False where the value jumps (hashes); such points are exempt from the continuous agreement tolerance. */
  readonly continuous: boolean;
  /**
   * How its value changes as its arguments do, where that cannot be read off the body.
   * @param changes of each argument; null where one does not change
   */
  derivative?(b: Building, args: readonly Node[], changes: readonly (Node | null)[]): Node;
  /**
   * How it is called where some of its arguments grow with time and whole numbers of them need not be known, or can be
   * counted apart. @param grownOf null for an argument that does not grow
   */
  far?(b: Building, args: readonly Node[], grownOf: (arg: Node) => Grown | null): Node | null;
  /** One sentence, printed above the GLSL function. */
  readonly note: string;
}

/** What the `result` nodes of a loop, or of a look at keys, hold. */
export const resultTypes = (node: Node): readonly Type[] =>
  node.loop?.state ?? ['f1', 'f1', 'f1', 'f4', typeOf('f', node.table!.width), typeOf('f', node.table!.width)];
