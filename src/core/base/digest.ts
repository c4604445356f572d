/** Hashes of what things are made of: short ones to find them by, a long one to tell them apart by. */

const float = new Float64Array(1);
const words = new Int32Array(float.buffer);

/** A number's bits, into `words`; whatever is no number has the same. */
function bits(value: number): void {
  float[0] = value;
  if (value !== value) words.set([0, 0x7ff80000]);
}

/** 32 bits; equal numbers give equal ones, 0 and -0 different ones. */
export function numbersHash(numbers: readonly number[]): number {
  let hash = numbers.length;
  for (let k = 0; k < numbers.length; k++) {
    bits(numbers[k]!);
    hash = Math.imul(hash ^ words[0]!, 0x01000193);
    hash = Math.imul(hash ^ words[1]!, 0x01000193);
  }
  return hash;
}

/** 32 bits of a text. */
export function charsHash(text: string): number {
  let hash = text.length;
  for (let k = 0; k < text.length; k++) hash = Math.imul(hash ^ text.charCodeAt(k), 0x01000193);
  return hash;
}

const turned = (x: number, by: number): number => (x << by) | (x >>> (32 - by));

/**
 * 128 bits of a run of numbers and texts, for telling runs apart: two that differ give the same once in 10^19 pairs of
 * ten billion runs. Not for trust: whoever wants two alike can make them.
 * The rounds are those of MurmurHash3 for 128 bits on 32-bit machines (A. Appleby, public domain), one lane a word.
 */
export class Digest {
  private a = 0x239b961b;
  private b = 0xab0e9789 | 0;
  private c = 0x38b34ae5;
  private d = 0xa1e38b93 | 0;
  private count = 0;

  private word(word: number): void {
    this.count++;
    const k = Math.imul(turned(Math.imul(word, 0x239b961b), 15), 0xab0e9789);
    this.a = (Math.imul(turned(this.a ^ k, 19) + this.b, 5) + 0x561ccd1b) | 0;
    this.b = (Math.imul(turned(this.b ^ turned(k, 8), 17) + this.c, 5) + 0x0bcaa747) | 0;
    this.c = (Math.imul(turned(this.c ^ turned(k, 16), 15) + this.d, 5) + 0x96cd1c35) | 0;
    this.d = (Math.imul(turned(this.d ^ turned(k, 24), 13) + this.a, 5) + 0x32ac3b17) | 0;
  }

  number(value: number): void {
    bits(value);
    this.word(words[0]!);
    this.word(words[1]!);
  }

  numbers(values: readonly number[]): void {
    this.number(values.length);
    for (let k = 0; k < values.length; k++) this.number(values[k]!);
  }

  text(text: string): void {
    this.word(text.length);
    for (let k = 0; k < text.length; k++) this.word(text.charCodeAt(k));
  }

  /** 32 hexadecimal digits, of what there is so far. */
  hex(): string {
    const end = new Digest();
    Object.assign(end, this);
    for (let round = 0; round < 4; round++) end.word(this.count);
    return [end.a, end.b, end.c, end.d].map((lane) => (lane >>> 0).toString(16).padStart(8, '0')).join('');
  }
}
