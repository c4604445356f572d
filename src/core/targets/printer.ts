/**
 * Prints IR as a shading language: which values get a variable, what stands in brackets, loops and kernel functions.
 * How anything is written is the dialect's (dialects/).
 */
import type { ScalarOp } from '../base/scalar.js';
import { reach } from '../base/reach.js';
import { textHash } from '../base/textHash.js';
import { widthOf, type CompositeOp, type ImageSlot, type Kernel, type Node, type Type } from '../ir/types.js';
import { Names } from './names.js';

/** An expression, and how tightly it binds: larger is tighter. */
export interface Text {
  readonly text: string;
  readonly level: number;
}
export const PRIMARY = 9;
export const UNARY = 8;

/** Functions that a language does not have, by the widths at which they are used. */
export const HELPERS = ['divide', 'unit', 'window'] as const;
export type Helper = (typeof HELPERS)[number];

/** What an operation's text is made of. */
export interface Operands {
  /** A node's text, in brackets where it binds less tightly than that. */
  at(node: Node, level: number): string;
  /** The argument of a function; a single number widens to the width that the function needs. */
  wide(node: Node, width: number): string;
  /** `a sign b`, where the language widens a single number by itself if the other side is a vector. */
  infix(sign: string, level: number, a: Node, b: Node): Text;
  /** A call of a helper, which is then defined. */
  helper(name: Helper, width: number, ...list: string[]): Text;
  /** True where the node's own expression is still to be written: it has no variable and comes from nowhere else. */
  unnamed(node: Node): boolean;
  constant(node: Node): Text;
}

/** How a language writes what IR says. */
export interface Dialect {
  readonly type: (type: Type) => string;
  readonly constant: (node: Node) => Text;
  /** Every operation: a missing one does not compile. */
  readonly operations: Readonly<Record<ScalarOp | CompositeOp, (node: Node, p: Operands) => Text>>;
  readonly helperName: (name: Helper, width: number) => string;
  readonly helper: (name: Helper, width: number) => string;
  /** A value that does not change. */
  readonly declare: (type: Type, name: string, text: string) => string;
  /** A value that a loop changes. */
  readonly variable: (type: Type, name: string, text: string) => string;
  readonly loop: (counter: string, count: number, body: readonly string[]) => string;
  /** The loop's counter, as a float. */
  readonly counter: (name: string) => string;
  readonly kernel: (kernel: Kernel, statements: readonly string[], result: string) => string;
  /** An image, looked up at u, v with v up, and a level. */
  readonly look: (image: string, uv: string, level: string) => string;
  readonly image: (name: string, slot: ImageSlot, index: number) => string;
}

export const call = (name: string, ...list: string[]): Text => ({ text: `${name}(${list.join(', ')})`, level: PRIMARY });

const inside = new WeakMap<Kernel, ReadonlySet<string>>();

/** The names of the kernels that these nodes call, and of those that these call in their turn. */
export function kernelNames(nodes: Iterable<Node>): ReadonlySet<string> {
  const found = new Set<string>();
  for (const node of nodes) {
    if (node.kernel) {
      let own = inside.get(node.kernel);
      if (!own) inside.set(node.kernel, (own = new Set([node.kernel.name, ...kernelNames(nodesUnder([node.kernel.body()]))])));
      for (const name of own) found.add(name);
    }
    if (node.loop) for (const name of kernelNames(nodesUnder(node.loop.next))) found.add(name);
  }
  return found;
}

const nodesUnder = (roots: readonly Node[]): Node[] => reach(roots, (node) => node.args);

/** A kernel's text is the same wherever it is called: printed once, with what it needs in the order it needs it. */
interface Printed {
  readonly needs: readonly ((into: Library) => void)[];
  readonly text: string;
}
const printed = new WeakMap<Dialect, WeakMap<Kernel, Printed>>();

function printKernel(kernel: Kernel, dialect: Dialect): Printed {
  let known = printed.get(dialect);
  if (!known) printed.set(dialect, (known = new WeakMap()));
  const found = known.get(kernel);
  if (found) return found;
  const own = new Library(dialect);
  const names = new Names(
    kernel.params.map((p) => p.name),
    kernelNames(nodesUnder([kernel.body()])),
  );
  const printer = new Printer(own, names, (node) => kernel.params[node.index!]!.name);
  const { statements, results } = printer.print([kernel.body()]);
  const made = { needs: own.needs, text: dialect.kernel(kernel, statements, results[0]!) };
  known.set(kernel, made);
  return made;
}

/** Kernels and helpers that a text has come to need, in the order in which they must be defined. */
export class Library {
  private readonly helpers = new Set<string>();
  private readonly kernels = new Set<Kernel>();
  private readonly text: string[] = [];
  /** What was asked for, in order. */
  readonly needs: ((into: Library) => void)[] = [];

  /** Images that are looked up, by the name of their sampler. */
  readonly images = new Map<string, ImageSlot>();

  constructor(readonly dialect: Dialect) {}

  image(slot: ImageSlot): string {
    // The same name in both shaders of a program for the same image, and another for another.
    const name = `image_${textHash(`${slot.asset} ${slot.wrap} ${slot.filter}`)}`;
    this.images.set(name, slot);
    return name;
  }

  helper(name: Helper, width: number): void {
    const key = `${name}${width}`;
    if (this.helpers.has(key)) return;
    this.helpers.add(key);
    this.needs.push((into) => into.helper(name, width));
    if (name === 'window' && width > 1) this.helper('window', 1);
    this.text.push(this.dialect.helper(name, width));
  }

  kernel(kernel: Kernel): void {
    if (this.kernels.has(kernel)) return;
    this.kernels.add(kernel);
    this.needs.push((into) => into.kernel(kernel));
    const { needs, text } = printKernel(kernel, this.dialect);
    for (const need of needs) need(this);
    this.text.push(text);
  }

  /** What has been defined, without the images. */
  get definitions(): readonly string[] {
    return this.text;
  }

  toString(): string {
    const samplers = [...this.images].map(([name, slot], k) => this.dialect.image(name, slot, k));
    return [samplers.join('\n'), ...this.text].filter(Boolean).join('\n\n');
  }
}

export const indent = (lines: readonly string[]): string =>
  lines
    .flatMap((l) => l.split('\n'))
    .map((l) => `  ${l}`)
    .join('\n');

const LONGEST = 110;
export const isSplat = (node: Node) =>
  node.op === 'join' && widthOf(node.args[0]!.type) === 1 && node.args.every((x) => x === node.args[0]);

export class Printer implements Operands {
  private readonly done = new Map<Node, Text>();
  private readonly statements: string[] = [];
  private readonly uses = new Map<Node, number>();
  /** Nodes that have a variable. */
  private readonly named = new Set<Node>();
  private readonly loops = new Map<Node, string[]>();
  private readonly dialect: Dialect;

  constructor(
    private readonly library: Library,
    private readonly names: Names,
    /** Text of the nodes that stand for outside values: arguments, leaves, slots. */
    private readonly outside: (node: Node) => string,
    /** True for nodes that are read from outside rather than computed here. */
    private readonly isOutside: (node: Node) => boolean = (n) => n.op === 'arg' || n.op === 'leaf' || n.op === 'param',
    /** A name that a node carries, if it has one: such nodes always get a variable. */
    private readonly label: (node: Node) => string | undefined = () => undefined,
    /** True: what lies behind is given at this point, rather than looked up in the picture. */
    private readonly behindGiven = false,
  ) {
    this.dialect = library.dialect;
  }

  /** What a node's text is made of. */
  private parts(node: Node): readonly Node[] {
    if (node.op !== 'behind') return node.args;
    return this.behindGiven ? node.args.slice(2) : node.args.slice(0, 2);
  }

  print(roots: readonly Node[]): { statements: string[]; results: string[] } {
    const partsOf = (node: Node) => (this.isOutside(node) ? [] : this.parts(node));
    const reached = reach(roots, partsOf);
    for (const used of [...roots, ...reached.flatMap(partsOf)]) this.uses.set(used, (this.uses.get(used) ?? 0) + 1);
    for (const node of reached.sort((a, b) => a.id - b.id)) this.settle(node);
    return { statements: this.statements, results: roots.map((r) => this.done.get(r)!.text) };
  }

  private settle(node: Node): void {
    if (this.isOutside(node)) {
      this.done.set(node, { text: this.outside(node), level: PRIMARY });
      return;
    }
    if (node.op === 'repeat') {
      this.repeat(node);
      return;
    }
    const text = this.expression(node);
    const label = this.label(node);
    const trivial = node.op === 'const' || node.op === 'pick' || node.op === 'result' || isSplat(node);
    const shared = (this.uses.get(node) ?? 0) > 1 && !trivial;
    if (label === undefined && !shared && text.text.length <= LONGEST) {
      this.done.set(node, text);
      return;
    }
    if (label === undefined && trivial) {
      this.done.set(node, text);
      return;
    }
    const name = label === undefined ? this.names.give('t', 't') : this.names.give(label, 'strand');
    this.statements.push(this.dialect.declare(node.type, name, text.text));
    this.done.set(node, { text: name, level: PRIMARY });
    this.named.add(node);
  }

  at(node: Node, level: number): string {
    const t = this.done.get(node)!;
    return t.level < level ? `(${t.text})` : t.text;
  }

  wide(node: Node, width: number): string {
    const text = this.at(node, 0);
    return widthOf(node.type) === width ? text : `${this.dialect.type(`${node.type[0] as 'f'}${width as 1}`)}(${text})`;
  }

  unnamed(node: Node): boolean {
    return !this.named.has(node) && !this.isOutside(node);
  }

  constant(node: Node): Text {
    return this.dialect.constant(node);
  }

  helper(name: Helper, width: number, ...list: string[]): Text {
    this.library.helper(name, width);
    return call(this.dialect.helperName(name, width), ...list);
  }

  infix(sign: string, level: number, a: Node, b: Node): Text {
    const narrow = (node: Node, other: Node) =>
      isSplat(node) && widthOf(other.type) > 1 && !isSplat(other) && this.unnamed(node) ? node.args[0]! : node;
    return { text: `${this.at(narrow(a, b), level)} ${sign} ${this.at(narrow(b, a), level + 1)}`, level };
  }

  private expression(node: Node): Text {
    const { op, args } = node;
    const [a, b, c] = args as [Node, Node, Node];
    const type = this.dialect.type(node.type);
    switch (op) {
      case 'const':
        return this.constant(node);
      case 'join':
        if (args.every((x) => x === a)) return call(type, this.at(a, 0));
        return call(type, ...args.map((x) => this.at(x, 0)));
      case 'pick':
        return widthOf(a.type) === 1
          ? this.done.get(a)!
          : { text: `${this.at(a, PRIMARY)}.${node.lanes!.map((l) => 'xyzw'[l]).join('')}`, level: PRIMARY };
      case 'call':
        this.library.kernel(node.kernel!);
        return call(node.kernel!.name, ...args.map((x) => this.at(x, 0)));
      case 'behind':
        return this.behindGiven ? this.done.get(c)! : call('sceneBehind', this.at(a, 0), this.at(b, 0));
      case 'sample':
        return { text: this.dialect.look(this.library.image(node.image!), this.at(a, PRIMARY), this.at(b, 0)), level: PRIMARY };
      case 'result':
        return { text: this.loops.get(a)![node.index!]!, level: PRIMARY };
      case 'param':
      case 'leaf':
      case 'arg':
      case 'repeat':
      case 'keys':
        throw new Error(`${op} is no expression of a shader`);
      default:
        return this.dialect.operations[op](node, this);
    }
  }

  private repeat(node: Node): void {
    const { count, state, next } = node.loop!;
    const held = state.map(() => this.names.give('state', 'state'));
    state.forEach((type, k) => this.statements.push(this.dialect.variable(type, held[k]!, this.at(node.args[k]!, 0))));
    const counter = this.names.give('i', 'i');
    const outer = node.args.slice(state.length);
    const inner = new Printer(this.library, this.names, (arg) => {
      const k = arg.index!;
      if (k < state.length) return held[k]!;
      return k === state.length ? this.dialect.counter(counter) : this.at(outer[k - state.length - 1]!, PRIMARY);
    });
    const { statements, results } = inner.print(next);
    // All of the next state is known before any of it is stored.
    const fresh = state.map((type, k) => {
      const name = this.names.give('next', 'next');
      return { name, text: this.dialect.declare(type, name, results[k]!) };
    });
    const stores = held.map((name, k) => `${name} = ${fresh[k]!.name};`);
    this.statements.push(this.dialect.loop(counter, count, [...statements, ...fresh.map((f) => f.text), ...stores]));
    this.loops.set(node, held);
    this.done.set(node, { text: held[0]!, level: PRIMARY });
  }
}
