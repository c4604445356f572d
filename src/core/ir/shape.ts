/** How wide a value is and of what, and what can be done with values. */
import type { Base, ScalarOp, Width } from '../base/scalar.js';

export type Type = `${Base}${Width}`;

/**
 * Operations on whole vectors that have a GLSL word of their own. They expand into scalar operations
 * (ir/composite.ts) for every other reading.
 */
export type CompositeOp = 'mix' | 'clamp' | 'fract' | 'smoothstep' | 'dot' | 'cross' | 'length' | 'normalize';

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

export const baseOf = (type: Type): Base => type[0] as Base;
export const widthOf = (type: Type): Width => (type.charCodeAt(1) - 48) as Width;
const TYPES = {
  f: ['f1', 'f1', 'f2', 'f3', 'f4'],
  i: ['i1', 'i1', 'i2', 'i3', 'i4'],
  b: ['b1', 'b1', 'b2', 'b3', 'b4'],
} as const;
export const typeOf = (base: Base, width: number): Type => TYPES[base][width]!;
