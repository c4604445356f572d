/** GLSL ES 3.00 for IR. */
import { baseOf, widthOf, type Node, type Type } from '../../ir/types.js';
import { isNever0, isNotBelow0 } from '../certain.js';
import { commentOf } from '../reserved.js';
import { PRIMARY, UNARY, call, indent, type Dialect, type Helper, type Operands, type Text } from '../printer.js';
import { shortestFloat } from './floats.js';

const WORDS = {
  f: ['', 'float', 'vec2', 'vec3', 'vec4'],
  i: ['', 'uint', 'uvec2', 'uvec3', 'uvec4'],
  b: ['', 'bool', 'bvec2', 'bvec3', 'bvec4'],
} as const;
const SIGNED = ['', 'int', 'ivec2', 'ivec3', 'ivec4'] as const;

export const glslType = (type: Type): string => WORDS[baseOf(type)][widthOf(type)]!;

/** The shortest decimal that reads back as the same 32-bit float. */
const glslFloat = (value: number): string =>
  Number.isFinite(value)
    ? shortestFloat(value)
    : value > 0
      ? 'uintBitsToFloat(0x7f800000u)'
      : value < 0
        ? 'uintBitsToFloat(0xff800000u)'
        : 'uintBitsToFloat(0x7fc00000u)';

const HELPER_TEXTS: Record<Helper, (type: string, width: number) => string> = {
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

type Rule = (node: Node, p: Operands) => Text;

const infix =
  (sign: string, level: number): Rule =>
  ({ args: [a, b] }, p) =>
    p.infix(sign, level, a!, b!);
/** A function of one argument, by the language's own name. */
const one =
  (name: string): Rule =>
  ({ args: [a] }, p) =>
    call(name, p.at(a!, 0));
const compare =
  (sign: string, word: string): Rule =>
  ({ type, args: [a, b] }, p) => {
    const width = widthOf(type);
    if (width === 1) return { text: `${p.at(a!, 5)} ${sign} ${p.at(b!, 5)}`, level: 4 };
    return call(word, p.wide(a!, width), p.wide(b!, width));
  };
const shift =
  (sign: string): Rule =>
  ({ args: [a, b] }, p) => ({ text: `${p.at(a!, 6)} ${sign} ${p.at(b!, 6)}`, level: 0 });
const logic =
  (sign: string): Rule =>
  ({ args: [a, b] }, p) => ({ text: `(${p.at(a!, 5)} ${sign} ${p.at(b!, 5)})`, level: PRIMARY });
const extreme =
  (name: string): Rule =>
  ({ type, args: [a, b] }, p) =>
    call(name, p.wide(a!, widthOf(type)), widthOf(b!.type) === 1 ? p.at(b!, 0) : p.wide(b!, widthOf(type)));
/** All of the widest argument's width. */
const alike =
  (name: string): Rule =>
  ({ args }, p) => {
    const width = Math.max(...args.map((x) => widthOf(x.type)));
    return call(name, ...args.map((x) => p.wide(x, width)));
  };
const signed = (node: Node, p: Operands) => `${SIGNED[widthOf(node.type)]!}(${p.at(node, 0)})`;

const operations: Dialect['operations'] = {
  add: ({ args: [a, b] }, p) => {
    if (a!.op === 'const' || b!.op !== 'const' || !b!.values!.every((v) => v < 0)) return p.infix('+', 6, a!, b!);
    // Adding a negative constant reads better as taking away.
    const positive = b!.values!.map((v) => -v);
    return { text: `${p.at(a!, 6)} - ${p.constant({ ...b!, values: positive }).text}`, level: 6 };
  },
  sub: infix('-', 6),
  mul: infix('*', 7),
  div: ({ type, args: [a, b] }, p) => {
    const width = widthOf(type);
    if (isNever0(b!)) return { text: `${p.at(a!, 7)} / ${p.at(b!, 8)}`, level: 7 };
    return p.helper('divide', width, p.wide(a!, width), p.wide(b!, width));
  },
  neg: ({ args: [a] }, p) => ({ text: `-${p.at(a!, PRIMARY)}`, level: UNARY }),
  abs: one('abs'),
  sign: one('sign'),
  floor: one('floor'),
  ceil: one('ceil'),
  round: one('roundEven'),
  sqrt: ({ args: [a] }, p) => call('sqrt', isNotBelow0(a!) ? p.at(a!, 0) : `max(${p.at(a!, 0)}, 0.0)`),
  min: extreme('min'),
  max: extreme('max'),
  lt: compare('<', 'lessThan'),
  le: compare('<=', 'lessThanEqual'),
  eq: compare('==', 'equal'),
  and: logic('&&'),
  or: logic('||'),
  not: ({ type, args: [a] }, p) =>
    widthOf(type) === 1 ? { text: `!${p.at(a!, PRIMARY)}`, level: UNARY } : call('not', p.at(a!, 0)),
  select: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    if (widthOf(a!.type) === 1) return { text: `${p.at(a!, 1)} ? ${p.wide(b!, width)} : ${p.wide(c!, width)}`, level: 0 };
    return call('mix', p.wide(c!, width), p.wide(b!, width), p.at(a!, 0));
  },
  iadd: infix('+', 6),
  isub: infix('-', 6),
  imul: infix('*', 7),
  ixor: infix('^', 2),
  iand: infix('&', 3),
  ior: infix('|', 1),
  ishl: shift('<<'),
  ushr: shift('>>'),
  ishr: ({ type, args: [a, b] }, p) => call(glslType(type), `${SIGNED[widthOf(type)]!}(${p.at(a!, 0)}) >> ${p.at(b!, 6)}`),
  ftoi: ({ type, args: [a] }, p) => call(glslType(type), signed(a!, p)),
  itof: ({ type, args: [a] }, p) => {
    if (a!.op === 'ishr' && p.unnamed(a!))
      return call(glslType(type), `${SIGNED[widthOf(type)]!}(${p.at(a!.args[0]!, 0)}) >> ${p.at(a!.args[1]!, 6)}`);
    return call(glslType(type), signed(a!, p));
  },
  fbits: one('floatBitsToUint'),
  ibits: one('uintBitsToFloat'),
  mix: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    return call('mix', p.wide(a!, width), p.wide(b!, width), widthOf(c!.type) === 1 ? p.at(c!, 0) : p.wide(c!, width));
  },
  clamp: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    if (widthOf(b!.type) === 1 && widthOf(c!.type) === 1) return call('clamp', p.wide(a!, width), p.at(b!, 0), p.at(c!, 0));
    return call('clamp', p.wide(a!, width), p.wide(b!, width), p.wide(c!, width));
  },
  fract: one('fract'),
  smoothstep: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    const rises = a!.op === 'const' && b!.op === 'const' && Math.max(...a!.values!) < Math.min(...b!.values!);
    const list = [p.wide(a!, width), p.wide(b!, width), p.wide(c!, width)];
    return rises ? call('smoothstep', ...list) : p.helper('window', width, ...list);
  },
  dot: alike('dot'),
  cross: alike('cross'),
  length: alike('length'),
  normalize: ({ type, args: [a] }, p) => p.helper('unit', widthOf(type), p.at(a!, 0)),
};

export const GLSL: Dialect = {
  type: glslType,
  operations,
  constant: (node) => {
    const base = baseOf(node.type);
    const word = (v: number) => (base === 'f' ? glslFloat(v) : base === 'i' ? `${v >>> 0}u` : v ? 'true' : 'false');
    const values = node.values!;
    if (values.length === 1) return { text: word(values[0]!), level: values[0]! < 0 && base === 'f' ? UNARY : PRIMARY };
    const same = values.every((v) => v === values[0]);
    const list = same ? [values[0]!] : values;
    return { text: `${glslType(node.type)}(${list.map(word).join(', ')})`, level: PRIMARY };
  },
  helperName: (name) => name,
  helper: (name, width) => HELPER_TEXTS[name](WORDS.f[width]!, width),
  declare: (type, name, text) => `${glslType(type)} ${name} = ${text};`,
  variable: (type, name, text) => `${glslType(type)} ${name} = ${text};`,
  loop: (counter, count, body) => `for (int ${counter} = 0; ${counter} < ${count}; ${counter}++) {\n${indent(body)}\n}`,
  counter: (name) => `float(${name})`,
  kernel: (kernel, statements, result) => {
    const params = kernel.params.map((p) => `${glslType(p.type)} ${p.name}`).join(', ');
    const body = indent([...statements, `return ${result};`]);
    return `${commentOf(kernel.note)}\n${glslType(kernel.result)} ${kernel.name}(${params}) {\n${body}\n}`;
  },
  look: (image, uv, level) => `textureLod(${image}, vec2(${uv}.x, 1.0 - ${uv}.y), ${level})`,
  image: (name, { asset, wrap, filter }) =>
    `uniform highp sampler2D ${name}; // ${asset.replace(/\W/g, ' ')}, ${wrap}, ${filter}`,
};
