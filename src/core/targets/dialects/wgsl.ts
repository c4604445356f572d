/** WGSL for IR. Source: "WebGPU Shading Language" (W3C). */
import { baseOf, widthOf, type Node, type Type } from '../../ir/types.js';
import { commentOf } from '../reserved.js';
import { isNever0, isNotBelow0 } from '../certain.js';
import { PRIMARY, UNARY, call, indent, type Dialect, type Helper, type Operands, type Text } from '../printer.js';
import { shortestFloat } from './floats.js';

const WORDS = {
  f: ['', 'f32', 'vec2f', 'vec3f', 'vec4f'],
  i: ['', 'u32', 'vec2u', 'vec3u', 'vec4u'],
  b: ['', 'bool', 'vec2<bool>', 'vec3<bool>', 'vec4<bool>'],
} as const;
const SIGNED = ['', 'i32', 'vec2i', 'vec3i', 'vec4i'] as const;

export const wgslType = (type: Type): string => WORDS[baseOf(type)][widthOf(type)]!;

/** Bits that no compiler knows beforehand: what is computed of constants may not be infinite, nor no number. */
export const WGSL_BITS = 'var<private> anyBits: u32 = 0u;';
const wgslFloat = (value: number): string =>
  Number.isFinite(value)
    ? shortestFloat(value)
    : `bitcast<f32>(anyBits | 0x${value > 0 ? '7f800000' : value < 0 ? 'ff800000' : '7fc00000'}u)`;

const LANES = ['x', 'y', 'z', 'w'] as const;
const helperName = (name: Helper, width: number) => (width === 1 ? name : `${name}${width}`);
const HELPER_TEXTS: Record<Helper, (type: string, width: number) => string> = {
  divide: (t, w) => {
    const zero = w === 1 ? '0.0' : `${t}(0.0)`;
    return `fn ${helperName('divide', w)}(a: ${t}, b: ${t}) -> ${t} { return select(a / b, ${zero}, b == ${zero}); }`;
  },
  unit: (t, w) =>
    w === 1
      ? 'fn unit(v: f32) -> f32 { return sign(v); }'
      : `fn ${helperName('unit', w)}(v: ${t}) -> ${t} { let size = length(v); return select(v / size, ${t}(0.0), size == 0.0); }`,
  window: (t, w) =>
    w === 1
      ? [
          'fn window(low: f32, high: f32, x: f32) -> f32 {',
          '  if (low == high) { return select(1.0, 0.0, x < low); }',
          '  let t = min(max((x - low) / (high - low), 0.0), 1.0);',
          '  return t * t * (3.0 - 2.0 * t);',
          '}',
        ].join('\n')
      : `fn ${helperName('window', w)}(low: ${t}, high: ${t}, x: ${t}) -> ${t} { return ${t}(${LANES.slice(0, w)
          .map((c) => `window(low.${c}, high.${c}, x.${c})`)
          .join(', ')}); }`,
};

type Rule = (node: Node, p: Operands) => Text;

const infix =
  (sign: string, level: number): Rule =>
  ({ args: [a, b] }, p) =>
    p.infix(sign, level, a!, b!);
const one =
  (name: string): Rule =>
  ({ args: [a] }, p) =>
    call(name, p.at(a!, 0));
/** Of two or three arguments of the result's width: nothing widens by itself in a call. */
const wide =
  (name: string): Rule =>
  ({ type, args }, p) =>
    call(name, ...args.map((x) => p.wide(x, widthOf(type))));
/** Comparisons, shifts and bits take nothing but the simplest operands beside them, and both of one width. */
const strict =
  (sign: string): Rule =>
  ({ type, args: [a, b] }, p) => {
    const side = (x: Node) => (widthOf(x.type) === widthOf(type) ? p.at(x, PRIMARY) : p.wide(x, widthOf(type)));
    return { text: `${side(a!)} ${sign} ${side(b!)}`, level: 0 };
  };
const logic =
  (sign: string): Rule =>
  ({ args: [a, b] }, p) => ({ text: `(${p.at(a!, PRIMARY)} ${sign} ${p.at(b!, PRIMARY)})`, level: PRIMARY });
const alike =
  (name: string): Rule =>
  ({ args }, p) => {
    const width = Math.max(...args.map((x) => widthOf(x.type)));
    return call(name, ...args.map((x) => p.wide(x, width)));
  };
const signed = (width: number) => SIGNED[width]!;
const unsigned = (type: Type, text: string): Text => call(`bitcast<${wgslType(type)}>`, text);

const operations: Dialect['operations'] = {
  add: infix('+', 6),
  sub: infix('-', 6),
  mul: infix('*', 7),
  div: ({ type, args: [a, b] }, p) => {
    if (isNever0(b!)) return { text: `${p.at(a!, 7)} / ${p.at(b!, 8)}`, level: 7 };
    const width = widthOf(type);
    return p.helper('divide', width, p.wide(a!, width), p.wide(b!, width));
  },
  neg: ({ args: [a] }, p) => ({ text: `-${p.at(a!, PRIMARY)}`, level: UNARY }),
  abs: one('abs'),
  sign: one('sign'),
  floor: one('floor'),
  ceil: one('ceil'),
  // Halves go to the even whole number.
  round: one('round'),
  sqrt: ({ type, args: [a] }, p) =>
    isNotBelow0(a!)
      ? call('sqrt', p.at(a!, 0))
      : call('sqrt', call('max', p.at(a!, 0), widthOf(type) === 1 ? '0.0' : `${wgslType(type)}(0.0)`).text),
  min: wide('min'),
  max: wide('max'),
  lt: strict('<'),
  le: strict('<='),
  eq: strict('=='),
  and: logic('&&'),
  or: logic('||'),
  not: ({ args: [a] }, p) => ({ text: `!${p.at(a!, PRIMARY)}`, level: UNARY }),
  select: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    return call('select', p.wide(c!, width), p.wide(b!, width), p.at(a!, 0));
  },
  iadd: infix('+', 6),
  isub: infix('-', 6),
  imul: infix('*', 7),
  ixor: strict('^'),
  iand: strict('&'),
  ior: strict('|'),
  ishl: strict('<<'),
  ushr: strict('>>'),
  ishr: ({ type, args: [a, b] }, p) => {
    const width = widthOf(type);
    return unsigned(type, `bitcast<${signed(width)}>(${p.at(a!, 0)}) >> ${p.wide(b!, width)}`);
  },
  ftoi: ({ type, args: [a] }, p) => unsigned(type, call(signed(widthOf(type)), p.at(a!, 0)).text),
  itof: ({ type, args: [a] }, p) => call(wgslType(type), `bitcast<${signed(widthOf(type))}>(${p.at(a!, 0)})`),
  fbits: ({ type, args: [a] }, p) => unsigned(type, p.at(a!, 0)),
  ibits: ({ type, args: [a] }, p) => call(`bitcast<${wgslType(type)}>`, p.at(a!, 0)),
  mix: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    return call('mix', p.wide(a!, width), p.wide(b!, width), widthOf(c!.type) === 1 ? p.at(c!, 0) : p.wide(c!, width));
  },
  // The language's own may be a median, where the ends are the wrong way round.
  clamp: ({ type, args: [a, b, c] }, p) => {
    const width = widthOf(type);
    return call('min', call('max', p.wide(a!, width), p.wide(b!, width)).text, p.wide(c!, width));
  },
  fract: one('fract'),
  smoothstep: ({ type, args }, p) => p.helper('window', widthOf(type), ...args.map((x) => p.wide(x, widthOf(type)))),
  dot: (node, p) => {
    const [a, b] = node.args as [Node, Node];
    // Of single numbers it is their product; the language has it of vectors only.
    return widthOf(a.type) === 1 && widthOf(b.type) === 1 ? p.infix('*', 7, a, b) : alike('dot')(node, p);
  },
  cross: alike('cross'),
  length: alike('length'),
  normalize: ({ type, args: [a] }, p) => p.helper('unit', widthOf(type), p.at(a!, 0)),
};

export const WGSL: Dialect = {
  type: wgslType,
  operations,
  constant: (node) => {
    const base = baseOf(node.type);
    const word = (v: number) => (base === 'f' ? wgslFloat(v) : base === 'i' ? `${v >>> 0}u` : v ? 'true' : 'false');
    const values = node.values!;
    if (values.length === 1) return { text: word(values[0]!), level: values[0]! < 0 && base === 'f' ? UNARY : PRIMARY };
    const list = values.every((v) => v === values[0]) ? [values[0]!] : values;
    return { text: `${wgslType(node.type)}(${list.map(word).join(', ')})`, level: PRIMARY };
  },
  helperName,
  helper: (name, width) => HELPER_TEXTS[name](WORDS.f[width]!, width),
  declare: (type, name, text) => `let ${name}: ${wgslType(type)} = ${text};`,
  variable: (type, name, text) => `var ${name}: ${wgslType(type)} = ${text};`,
  loop: (counter, count, body) => `for (var ${counter} = 0; ${counter} < ${count}; ${counter}++) {\n${indent(body)}\n}`,
  counter: (name) => `f32(${name})`,
  kernel: (kernel, statements, result) => {
    const params = kernel.params.map((p) => `${p.name}: ${wgslType(p.type)}`).join(', ');
    const body = indent([...statements, `return ${result};`]);
    return `${commentOf(kernel.note)}\nfn ${kernel.name}(${params}) -> ${wgslType(kernel.result)} {\n${body}\n}`;
  },
  look: (image, uv, level) => `textureSampleLevel(${image}, ${image}Sampler, vec2f(${uv}.x, 1.0 - ${uv}.y), ${level})`,
  image: (name, { asset, wrap, filter }, index) =>
    `@group(2) @binding(${2 * index}) var ${name}: texture_2d<f32>; // ${asset.replace(/\W/g, ' ')}, ${wrap}, ${filter}\n` +
    `@group(2) @binding(${2 * index + 1}) var ${name}Sampler: sampler;`,
};
