/**
 * What each composite operation means in scalar operations, written once for any algebra: over numbers it folds
 * constants, over a scalar program it expands.
 */
import { SCALAR, type ScalarOp } from '../base/scalar.js';
import type { CompositeOp } from './shape.js';

/** Something that can apply scalar operations to values of type T. */
export interface Algebra<T> {
  op(name: ScalarOp, ...args: T[]): T;
  number(value: number): T;
}

/**
 * @param args one list of components per argument, all of the same length
 * @returns the components of the result
 */
export function expandComposite<T>(a: Algebra<T>, name: CompositeOp, args: readonly (readonly T[])[]): T[] {
  const lanes = args[0]!.map((_, k) => args.map((arg) => arg[k]!));
  switch (name) {
    case 'fract':
      return lanes.map(([x]) => a.op('sub', x!, a.op('floor', x!)));
    case 'clamp':
      return lanes.map(([x, low, high]) => a.op('min', a.op('max', x!, low!), high!));
    case 'mix':
      // GLSL's definition: x (1 - t) + y t, exact at both ends.
      return lanes.map(([x, y, t]) => a.op('add', a.op('mul', x!, a.op('sub', a.number(1), t!)), a.op('mul', y!, t!)));
    case 'smoothstep':
      return lanes.map(([low, high, x]) => {
        const t = a.op('div', a.op('sub', x!, low!), a.op('sub', high!, low!));
        const c = a.op('min', a.op('max', t, a.number(0)), a.number(1));
        const s = a.op('mul', a.op('mul', c, c), a.op('sub', a.number(3), a.op('mul', a.number(2), c)));
        // A window of no width is a step.
        const step = a.op('select', a.op('lt', x!, low!), a.number(0), a.number(1));
        return a.op('select', a.op('eq', low!, high!), step, s);
      });
    case 'dot':
      return [lanes.map(([x, y]) => a.op('mul', x!, y!)).reduce((s, p) => a.op('add', s, p))];
    case 'cross': {
      const side = (p: number, q: number) =>
        a.op('sub', a.op('mul', lanes[p]![0]!, lanes[q]![1]!), a.op('mul', lanes[q]![0]!, lanes[p]![1]!));
      return [side(1, 2), side(2, 0), side(0, 1)];
    }
    case 'length':
      return [a.op('sqrt', expandComposite(a, 'dot', [args[0]!, args[0]!])[0]!)];
    case 'normalize': {
      // The zero vector stays zero: dividing by 0 gives 0.
      const [size] = expandComposite(a, 'length', args);
      return args[0]!.map((x) => a.op('div', x, size!));
    }
  }
}

const NUMBERS: Algebra<number> = {
  op: (name, ...args) => SCALAR[name].apply(args[0] ?? 0, args[1] ?? 0, args[2] ?? 0),
  number: (value) => Math.fround(value),
};

export const evaluateComposite = (name: CompositeOp, args: readonly (readonly number[])[]): number[] =>
  expandComposite(NUMBERS, name, args);
