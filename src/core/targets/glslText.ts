/** Prints IR as GLSL ES 3.00: expressions, local variables, loops and kernel functions. */
import { reach } from '../base/reach.js';
import { textHash } from '../base/textHash.js';
import { baseOf, widthOf, type ImageSlot, type Kernel, type Node, type Type } from '../ir/types.js';
import { Names } from './names.js';
import { commentOf } from './reserved.js';

const WORDS = {
  f: ['', 'float', 'vec2', 'vec3', 'vec4'],
  i: ['', 'uint', 'uvec2', 'uvec3', 'uvec4'],
  b: ['', 'bool', 'bvec2', 'bvec3', 'bvec4'],
} as const;
const SIGNED = ['', 'int', 'ivec2', 'ivec3', 'ivec4'] as const;

export const glslType = (type: Type): string => WORDS[baseOf(type)][widthOf(type)]!;

/** The shortest decimal that reads back as the same 32-bit float. */
export function glslFloat(value: number): string {
  let text = floats.get(value);
  if (text === undefined) {
    if (floats.size > 10_000) floats.clear();
    floats.set(value, (text = shortest(value)));
  }
  return text;
}

/** The same few numbers are printed again and again. -0 and 0 are one key, and one text. */
const floats = new Map<number, string>();

function shortest(value: number): string {
  if (!Number.isFinite(value))
    return value > 0
      ? 'uintBitsToFloat(0x7f800000u)'
      : value < 0
        ? 'uintBitsToFloat(0xff800000u)'
        : 'uintBitsToFloat(0x7fc00000u)';
  let text = String(value);
  for (let digits = 1; digits <= 9; digits++) {
    const candidate = value.toPrecision(digits);
    if (Math.fround(Number(candidate)) === value) {
      text = String(Number(candidate));
      break;
    }
  }
  if (!/[.e]/.test(text)) text += '.0';
  return text;
}

/** How tightly an expression binds: larger is tighter. */
const PRIMARY = 9;
const UNARY = 8;
interface Text {
  readonly text: string;
  readonly level: number;
}

const INFIX: Partial<Record<Node['op'], readonly [string, number]>> = {
  mul: ['*', 7],
  imul: ['*', 7],
  add: ['+', 6],
  sub: ['-', 6],
  iadd: ['+', 6],
  isub: ['-', 6],
  iand: ['&', 3],
  ixor: ['^', 2],
  ior: ['|', 1],
};
const COMPARE = { lt: ['<', 'lessThan'], le: ['<=', 'lessThanEqual'], eq: ['==', 'equal'] } as const;

/** Helpers defined in this file, by the widths at which they are used. */
type Helper = 'divide' | 'unit' | 'window';
const HELPERS: Record<Helper, (type: string, width: number) => string> = {
  divide: (t, w) =>
    w === 1
      ? 'float divide(float a, float b) { return b == 0.0 ? 0.0 : a / b; }'
      : `${t} divide(${t} a, ${t} b) { return mix(a / b, ${t}(0.0), equal(b, ${t}(0.0))); }`,
  unit: (t, w) =>
    w === 1
      ? 'float unit(float v) { return sign(v); }'
      : `${t} unit(${t} v) { float size = length(v); return size == 0.0 ? ${t}(0.0) : v / size; }`,
  window: (t, w) =>
    w === 1
      ? [
          'float window(float low, float high, float x) {',
          '  if (low == high) return x < low ? 0.0 : 1.0;',
          '  float t = clamp((x - low) / (high - low), 0.0, 1.0);',
          '  return t * t * (3.0 - 2.0 * t);',
          '}',
        ].join('\n')
      : `${t} window(${t} low, ${t} high, ${t} x) { return ${t}(${['x', 'y', 'z', 'w']
          .slice(0, w)
          .map((c) => `window(low.${c}, high.${c}, x.${c})`)
          .join(', ')}); }`,
};

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
const printed = new WeakMap<Kernel, Printed>();

function printKernel(kernel: Kernel): Printed {
  const found = printed.get(kernel);
  if (found) return found;
  const own = new Library();
  const names = new Names(
    kernel.params.map((p) => p.name),
    kernelNames(nodesUnder([kernel.body()])),
  );
  const printer = new Printer(own, names, (node) => kernel.params[node.index!]!.name);
  const { statements, results } = printer.print([kernel.body()]);
  const params = kernel.params.map((p) => `${glslType(p.type)} ${p.name}`).join(', ');
  const body = indent([...statements, `return ${results[0]!};`]);
  const made = {
    needs: own.needs,
    text: `${commentOf(kernel.note)}\n${glslType(kernel.result)} ${kernel.name}(${params}) {\n${body}\n}`,
  };
  printed.set(kernel, made);
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
    this.text.push(HELPERS[name](WORDS.f[width]!, width));
  }

  kernel(kernel: Kernel): void {
    if (this.kernels.has(kernel)) return;
    this.kernels.add(kernel);
    this.needs.push((into) => into.kernel(kernel));
    const { needs, text } = printKernel(kernel);
    for (const need of needs) need(this);
    this.text.push(text);
  }

  toString(): string {
    const samplers = [...this.images].map(
      ([name, { asset, wrap, filter }]) => `uniform highp sampler2D ${name}; // ${asset.replace(/\W/g, ' ')}, ${wrap}, ${filter}`,
    );
    return [samplers.join('\n'), ...this.text].filter(Boolean).join('\n\n');
  }
}

export const indent = (lines: readonly string[]): string =>
  lines
    .flatMap((l) => l.split('\n'))
    .map((l) => `  ${l}`)
    .join('\n');

const LONGEST = 110;
const isSplat = (node: Node) =>
  node.op === 'join' && widthOf(node.args[0]!.type) === 1 && node.args.every((x) => x === node.args[0]);

export class Printer {
  private readonly done = new Map<Node, Text>();
  private readonly statements: string[] = [];
  private readonly uses = new Map<Node, number>();
  /** Nodes that have a variable. */
  private readonly named = new Set<Node>();

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
  ) {}

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
    this.statements.push(`${glslType(node.type)} ${name} = ${text.text};`);
    this.done.set(node, { text: name, level: PRIMARY });
    this.named.add(node);
  }

  private at(node: Node, level: number): string {
    const t = this.done.get(node)!;
    return t.level < level ? `(${t.text})` : t.text;
  }

  /** The argument of a function; a single number widens to the width that the function needs. */
  private wide(node: Node, width: number): string {
    const text = this.at(node, 0);
    return widthOf(node.type) === width ? text : `${WORDS[baseOf(node.type)][width]!}(${text})`;
  }

  private expression(node: Node): Text {
    const { op, args } = node;
    const width = widthOf(node.type);
    const [a, b, c] = args as [Node, Node, Node];
    const call = (name: string, ...list: string[]): Text => ({ text: `${name}(${list.join(', ')})`, level: PRIMARY });
    const infix = INFIX[op];
    if (infix) {
      const [sign, level] = infix;
      if (a.op === 'const' || b.op !== 'const' || !b.values!.every((v) => v < 0) || op !== 'add')
        return this.infix(sign, level, a, b);
      // Adding a negative constant reads better as taking away.
      const positive = b.values!.map((v) => -v);
      return { text: `${this.at(a, level)} - ${this.constant({ ...b, values: positive }).text}`, level };
    }
    switch (op) {
      case 'const':
        return this.constant(node);
      case 'div':
        if (b.op === 'const' && b.values!.every((v) => v !== 0)) return { text: `${this.at(a, 7)} / ${this.at(b, 8)}`, level: 7 };
        this.library.helper('divide', width);
        return call('divide', this.wide(a, width), this.wide(b, width));
      case 'neg':
        return { text: `-${this.at(a, PRIMARY)}`, level: UNARY };
      case 'abs':
      case 'sign':
      case 'floor':
      case 'ceil':
        return call(op, this.at(a, 0));
      case 'fract':
        return call(op, this.at(a, 0));
      case 'round':
        return call('roundEven', this.at(a, 0));
      case 'sqrt':
        return call('sqrt', `max(${this.at(a, 0)}, 0.0)`);
      case 'min':
      case 'max':
        return call(op, this.wide(a, width), widthOf(b.type) === 1 ? this.at(b, 0) : this.wide(b, width));
      case 'lt':
      case 'le':
      case 'eq': {
        const [sign, word] = COMPARE[op];
        if (width === 1) return { text: `${this.at(a, 5)} ${sign} ${this.at(b, 5)}`, level: 4 };
        return call(word, this.wide(a, width), this.wide(b, width));
      }
      case 'and':
      case 'or':
        return { text: `(${this.at(a, 5)} ${op === 'and' ? '&&' : '||'} ${this.at(b, 5)})`, level: PRIMARY };
      case 'not':
        return width === 1 ? { text: `!${this.at(a, PRIMARY)}`, level: UNARY } : call('not', this.at(a, 0));
      case 'select':
        if (widthOf(a.type) === 1)
          return { text: `${this.at(a, 1)} ? ${this.wide(b, width)} : ${this.wide(c, width)}`, level: 0 };
        return call('mix', this.wide(c, width), this.wide(b, width), this.at(a, 0));
      case 'ishl':
        return { text: `${this.at(a, 6)} << ${this.at(b, 6)}`, level: 0 };
      case 'ushr':
        return { text: `${this.at(a, 6)} >> ${this.at(b, 6)}`, level: 0 };
      case 'ishr':
        return call(glslType(node.type), `${SIGNED[width]!}(${this.at(a, 0)}) >> ${this.at(b, 6)}`);
      case 'ftoi':
        return call(glslType(node.type), `${SIGNED[width]!}(${this.at(a, 0)})`);
      case 'itof':
        if (a.op === 'ishr' && !this.named.has(a) && !this.isOutside(a))
          return call(glslType(node.type), `${SIGNED[width]!}(${this.at(a.args[0]!, 0)}) >> ${this.at(a.args[1]!, 6)}`);
        return call(glslType(node.type), `${SIGNED[width]!}(${this.at(a, 0)})`);
      case 'fbits':
        return call('floatBitsToUint', this.at(a, 0));
      case 'ibits':
        return call('uintBitsToFloat', this.at(a, 0));
      case 'join':
        if (args.every((x) => x === a)) return call(glslType(node.type), this.at(a, 0));
        return call(glslType(node.type), ...args.map((x) => this.at(x, 0)));
      case 'pick':
        return widthOf(a.type) === 1
          ? this.done.get(a)!
          : { text: `${this.at(a, PRIMARY)}.${node.lanes!.map((l) => 'xyzw'[l]).join('')}`, level: PRIMARY };
      case 'mix':
        return call('mix', this.wide(a, width), this.wide(b, width), widthOf(c.type) === 1 ? this.at(c, 0) : this.wide(c, width));
      case 'clamp':
        if (widthOf(b.type) === 1 && widthOf(c.type) === 1)
          return call('clamp', this.wide(a, width), this.at(b, 0), this.at(c, 0));
        return call('clamp', this.wide(a, width), this.wide(b, width), this.wide(c, width));
      case 'smoothstep': {
        const rises = a.op === 'const' && b.op === 'const' && Math.max(...a.values!) < Math.min(...b.values!);
        if (!rises) this.library.helper('window', width);
        return call(rises ? 'smoothstep' : 'window', this.wide(a, width), this.wide(b, width), this.wide(c, width));
      }
      case 'dot':
      case 'length': {
        const wide = Math.max(...args.map((x) => widthOf(x.type)));
        return call(op, ...args.map((x) => this.wide(x, wide)));
      }
      case 'normalize':
        this.library.helper('unit', width);
        return call('unit', this.at(a, 0));
      case 'call':
        this.library.kernel(node.kernel!);
        return call(node.kernel!.name, ...args.map((x) => this.at(x, 0)));
      case 'behind':
        return this.behindGiven ? this.done.get(c)! : call('sceneBehind', this.at(a, 0), this.at(b, 0));
      case 'sample':
        return call(
          'textureLod',
          this.library.image(node.image!),
          `vec2(${this.at(a, PRIMARY)}.x, 1.0 - ${this.at(a, PRIMARY)}.y)`,
          this.at(b, 0),
        );
      case 'result':
        return { text: this.loops.get(a)![node.index!]!, level: PRIMARY };
      default:
        throw new Error(`no GLSL for ${op}`);
    }
  }

  private infix(sign: string, level: number, a: Node, b: Node): Text {
    // GLSL widens a single number by itself where the other side is a vector.
    const narrow = (node: Node, other: Node) =>
      isSplat(node) && widthOf(other.type) > 1 && !isSplat(other) && !this.named.has(node) && !this.isOutside(node)
        ? node.args[0]!
        : node;
    return { text: `${this.at(narrow(a, b), level)} ${sign} ${this.at(narrow(b, a), level + 1)}`, level };
  }

  private constant(node: Node): Text {
    const base = baseOf(node.type);
    const word = (v: number) => (base === 'f' ? glslFloat(v) : base === 'i' ? `${v >>> 0}u` : v ? 'true' : 'false');
    const values = node.values!;
    if (values.length === 1) return { text: word(values[0]!), level: values[0]! < 0 && base === 'f' ? UNARY : PRIMARY };
    const same = values.every((v) => v === values[0]);
    const list = same ? [values[0]!] : values;
    return { text: `${glslType(node.type)}(${list.map(word).join(', ')})`, level: PRIMARY };
  }

  private readonly loops = new Map<Node, string[]>();

  private repeat(node: Node): void {
    const { count, state, next } = node.loop!;
    const held = state.map(() => this.names.give('state', 'state'));
    state.forEach((type, k) => this.statements.push(`${glslType(type)} ${held[k]!} = ${this.at(node.args[k]!, 0)};`));
    const counter = this.names.give('i', 'i');
    const outer = node.args.slice(state.length);
    const inner = new Printer(this.library, this.names, (arg) => {
      const k = arg.index!;
      if (k < state.length) return held[k]!;
      return k === state.length ? `float(${counter})` : this.at(outer[k - state.length - 1]!, PRIMARY);
    });
    const { statements, results } = inner.print(next);
    // All of the next state is known before any of it is stored.
    const fresh = state.map((type, k) => {
      const name = this.names.give('next', 'next');
      return { name, text: `${glslType(type)} ${name} = ${results[k]!};` };
    });
    const stores = held.map((name, k) => `${name} = ${fresh[k]!.name};`);
    this.statements.push(
      `for (int ${counter} = 0; ${counter} < ${count}; ${counter}++) {\n${indent([...statements, ...fresh.map((f) => f.text), ...stores])}\n}`,
    );
    this.loops.set(node, held);
    this.done.set(node, { text: held[0]!, level: PRIMARY });
  }
}
