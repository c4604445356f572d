/** WebAssembly as bytes: instructions, numbers of variable length, and constants that stand in memory. */
import type { Base, ScalarOp } from '../../base/scalar.js';

/** SIMD opcodes, after the prefix 0xfd (WebAssembly core specification 2.0, vector instructions). */
export const SIMD = {
  load: 0x00,
  loadSplat32: 0x09,
  store: 0x0b,
  const: 0x0c,
  f32splat: 0x13,
  i32add: 0xae,
  i32sub: 0xb1,
  i32mul: 0xb5,
  xor: 0x51,
  and: 0x4e,
  or: 0x50,
  not: 0x4d,
  andnot: 0x4f,
  bitselect: 0x52,
  i32shl: 0xab,
  i32shrS: 0xac,
  i32shrU: 0xad,
  f32ceil: 0x67,
  f32floor: 0x68,
  f32nearest: 0x6a,
  f32abs: 0xe0,
  f32neg: 0xe1,
  f32sqrt: 0xe3,
  f32add: 0xe4,
  f32sub: 0xe5,
  f32mul: 0xe6,
  f32div: 0xe7,
  f32pmin: 0xea,
  f32pmax: 0xeb,
  f32eq: 0x41,
  f32lt: 0x43,
  f32gt: 0x44,
  f32le: 0x45,
  truncSat: 0xf8,
  convert: 0xfa,
} as const;

/** Operations that are one instruction; the rest are spelt out in `operation`. */
export const DIRECT = {
  add: SIMD.f32add,
  sub: SIMD.f32sub,
  mul: SIMD.f32mul,
  neg: SIMD.f32neg,
  abs: SIMD.f32abs,
  floor: SIMD.f32floor,
  ceil: SIMD.f32ceil,
  round: SIMD.f32nearest,
  min: SIMD.f32pmin,
  max: SIMD.f32pmax,
  lt: SIMD.f32lt,
  le: SIMD.f32le,
  eq: SIMD.f32eq,
  and: SIMD.and,
  or: SIMD.or,
  not: SIMD.not,
  iadd: SIMD.i32add,
  isub: SIMD.i32sub,
  imul: SIMD.i32mul,
  ixor: SIMD.xor,
  iand: SIMD.and,
  ior: SIMD.or,
  ftoi: SIMD.truncSat,
  itof: SIMD.convert,
} as const satisfies Partial<Record<ScalarOp, number>>;
export type Direct = keyof typeof DIRECT;
export const isDirect = (op: ScalarOp): op is Direct => Object.hasOwn(DIRECT, op);

export const I32 = 0x7f;
export const V128 = 0x7b;
export const LOCAL_GET = 0x20;
export const LOCAL_SET = 0x21;
export const LOCAL_TEE = 0x22;

export class Bytes {
  readonly list: number[] = [];
  u32(value: number): this {
    let rest = value >>> 0;
    do {
      const low = rest & 0x7f;
      rest >>>= 7;
      this.list.push(rest ? low | 0x80 : low);
    } while (rest);
    return this;
  }
  s32(value: number): this {
    let rest = value | 0;
    for (;;) {
      const low = rest & 0x7f;
      rest >>= 7;
      const last = (rest === 0 && !(low & 0x40)) || (rest === -1 && (low & 0x40) !== 0);
      this.list.push(last ? low : low | 0x80);
      if (last) return this;
    }
  }
  add(...bytes: number[]): this {
    for (const b of bytes) this.list.push(b);
    return this;
  }
  append(other: Bytes): this {
    for (const b of other.list) this.list.push(b);
    return this;
  }
  /** A section or body: its length, then itself. */
  sized(other: Bytes): this {
    return this.u32(other.list.length).append(other);
  }
  name(text: string): this {
    const encoded = new TextEncoder().encode(text);
    return this.u32(encoded.length).add(...encoded);
  }
  simd(code: number): this {
    return this.add(0xfd).u32(code);
  }
}

const scratch = new DataView(new ArrayBuffer(4));
export function lanes(base: Base, value: number): number[] {
  if (base === 'f') scratch.setFloat32(0, value, true);
  else scratch.setInt32(0, base === 'b' ? (value ? -1 : 0) : value, true);
  const four = [0, 1, 2, 3].map((k) => scratch.getUint8(k));
  return [...four, ...four, ...four, ...four];
}

/**
 * Constants stand in memory: one load each. Written as instructions, engines build them from two halves every time
 * they are met, which doubles the cost of a hash.
 */
export class ConstantPool {
  private readonly places = new Map<string, number>();
  readonly bytes: number[] = [];

  constructor(readonly at: number) {}

  push(code: Bytes, base: Base, value: number): void {
    const four = lanes(base, value);
    // All zeros and all ones need no memory.
    if (four.every((b) => b === 0) || four.every((b) => b === 255)) {
      code.simd(SIMD.const).add(...four);
      return;
    }
    const key = four.slice(0, 4).join();
    let place = this.places.get(key);
    if (place === undefined) {
      place = this.at + this.bytes.length;
      this.places.set(key, place);
      this.bytes.push(...four);
    }
    code.add(0x41, 0x00).simd(SIMD.load).u32(4).u32(place);
  }
}
