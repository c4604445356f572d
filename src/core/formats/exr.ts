/**
 * Writes OpenEXR pictures, and looks over those that are to be read: scan lines, half or full floats, ZIP-compressed by 16 lines. Source: "Technical Introduction to
 * OpenEXR" and "OpenEXR File Layout" (openexr.com).
 */
import { zlibSync } from 'fflate';
import { MAX_SIDE } from '../base/picture.js';
import { BadImage } from './badImage.js';
import { unpackedSize } from './inflate.js';

export interface ExrPicture {
  readonly width: number;
  readonly height: number;
  /** By name, `R`, `G`, `B`, `A`, or `Y` for one channel: planes of width x height, top row first. */
  readonly channels: Readonly<Record<string, Float32Array>>;
  readonly depth: 'half' | 'float';
}

const LINES = 16;
const scratch = new DataView(new ArrayBuffer(4));

/** The nearest half float, ties to even (IEEE 754 binary16). */
export function toHalf(x: number): number {
  scratch.setFloat32(0, x);
  const bits = scratch.getUint32(0);
  const sign = (bits >>> 16) & 0x8000;
  const magnitude = bits & 0x7fffffff;
  if (magnitude >= 0x7f800000) return sign | (magnitude > 0x7f800000 ? 0x7e00 : 0x7c00);
  if (magnitude >= 0x477ff000) return sign | 0x7c00;
  if (magnitude < 0x38800000) {
    // Below the smallest normal half: counted in steps of 2^-24, halves to even.
    const steps = Math.abs(Math.fround(x)) * 2 ** 24;
    const floor = Math.floor(steps);
    const rest = steps - floor;
    return sign | (rest > 0.5 || (rest === 0.5 && floor % 2 === 1) ? floor + 1 : floor);
  }
  const rounded = magnitude + 0xfff + ((magnitude >>> 13) & 1);
  return sign | ((rounded - 0x38000000) >>> 13);
}

class Writer {
  private readonly parts: number[] = [];
  byte = (v: number) => void this.parts.push(v & 255);
  int = (v: number) => [0, 8, 16, 24].forEach((s) => this.byte(v >> s));
  float = (v: number) => {
    scratch.setFloat32(0, v, true);
    for (let k = 0; k < 4; k++) this.byte(scratch.getUint8(k));
  };
  text = (t: string) => {
    for (const c of t) this.byte(c.charCodeAt(0));
    this.byte(0);
  };
  attribute = (name: string, type: string, size: number, value: () => void) => {
    this.text(name);
    this.text(type);
    this.int(size);
    value();
  };
  get bytes(): Uint8Array {
    return Uint8Array.from(this.parts);
  }
}

/** What ZIP compresses best: even bytes before odd ones, each as its difference from the one before. */
function predicted(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  for (let k = 0; k < raw.length; k++) out[(k >> 1) + (k & 1 ? half : 0)] = raw[k]!;
  for (let k = out.length - 1; k > 0; k--) out[k] = (out[k]! - out[k - 1]! + 384) & 255;
  return out;
}

export function writeExr({ width, height, channels, depth }: ExrPicture): Uint8Array<ArrayBuffer> {
  const names = Object.keys(channels).sort();
  const size = depth === 'half' ? 2 : 4;
  const head = new Writer();
  head.int(20000630);
  head.int(2);
  const channelBytes = names.reduce((sum, n) => sum + n.length + 1 + 16, 1);
  head.attribute('channels', 'chlist', channelBytes, () => {
    for (const name of names) {
      head.text(name);
      head.int(depth === 'half' ? 1 : 2);
      head.int(0);
      head.int(1);
      head.int(1);
    }
    head.byte(0);
  });
  head.attribute('compression', 'compression', 1, () => head.byte(3));
  for (const window of ['dataWindow', 'displayWindow'])
    head.attribute(window, 'box2i', 16, () => [0, 0, width - 1, height - 1].forEach(head.int));
  head.attribute('lineOrder', 'lineOrder', 1, () => head.byte(0));
  head.attribute('pixelAspectRatio', 'float', 4, () => head.float(1));
  head.attribute('screenWindowCenter', 'v2f', 8, () => [0, 0].forEach(head.float));
  head.attribute('screenWindowWidth', 'float', 4, () => head.float(1));
  head.byte(0);
  const header = head.bytes;

  const chunks: Uint8Array[] = [];
  for (let top = 0; top < height; top += LINES) {
    const lines = Math.min(LINES, height - top);
    const raw = new Uint8Array(lines * width * names.length * size);
    const view = new DataView(raw.buffer);
    let at = 0;
    for (let y = top; y < top + lines; y++)
      for (const name of names) {
        const plane = channels[name]!;
        for (let x = 0; x < width; x++, at += size) {
          const v = plane[y * width + x]!;
          if (depth === 'half') view.setUint16(at, toHalf(v), true);
          else view.setFloat32(at, v, true);
        }
      }
    const packed = zlibSync(predicted(raw));
    // What compression does not make smaller is stored as it is.
    const body = packed.length < raw.length ? packed : raw;
    const chunk = new Uint8Array(8 + body.length);
    new DataView(chunk.buffer).setInt32(0, top, true);
    new DataView(chunk.buffer).setInt32(4, body.length, true);
    chunk.set(body, 8);
    chunks.push(chunk);
  }
  const tableAt = header.length;
  let at = tableAt + chunks.length * 8;
  const file = new Uint8Array(at + chunks.reduce((sum, c) => sum + c.length, 0));
  file.set(header);
  const table = new DataView(file.buffer, tableAt);
  chunks.forEach((chunk, k) => {
    table.setBigUint64(k * 8, BigInt(at), true);
    file.set(chunk, at);
    at += chunk.length;
  });
  return file;
}

/** Lines a chunk, by the number of the compression. */
const CHUNK_LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];
const [ZIPS, ZIP, PXR24, DWAA, DWAB] = [2, 3, 5, 8, 9];
/** Those that store what they do not make smaller as it is. */
const PLAIN = [0, 1, ZIPS, ZIP, 4, PXR24];
/** Channels of a picture that can be of use here; each costs memory. */
const MAX_CHANNELS = 64;

/** Bytes a pixel of a list of channels: a name, a type (1 of two bytes, 0 and 2 of four), a mark, how
 * many pixels it stands for across and down. */
function pixelBytes(list: Uint8Array): number {
  const view = new DataView(list.buffer, list.byteOffset, list.byteLength);
  let sum = 0;
  for (let at = 0, channels = 0; list[at] !== 0; channels++) {
    const end = list.indexOf(0, at);
    if (end < 0 || end + 17 > list.length || channels >= MAX_CHANNELS) throw new BadImage('its list of channels is broken');
    const [type, across, down] = [1, 9, 13].map((k) => view.getInt32(end + k, true)) as [number, number, number];
    if (type < 0 || type > 2) throw new BadImage('a channel of it is of a kind that there is not');
    if (across !== 1 || down !== 1) throw new BadImage('a channel of it has not every pixel; only full ones are read');
    sum += type === 1 ? 2 : 4;
    at = end + 17;
  }
  return sum;
}

/** The parts of a DWA chunk that are compressed by zlib: eleven numbers of eight bytes, the channels' rules, four parts. */
function dwaParts(chunk: Uint8Array): Uint8Array[] {
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  if (chunk.length < 90) throw new BadImage('it ends too early');
  const number = (k: number) => Number(view.getBigUint64(k * 8, true));
  const [unknown, ac, dc, rle] = [2, 3, 4, 5].map(number) as [number, number, number, number];
  let at = 88 + view.getUint16(88, true);
  // Each of the rules: a name that ends, what is done to its channel, and of which kind that is.
  for (let rule = 90; rule < at;) {
    const end = chunk.indexOf(0, rule);
    if (end < 0 || end + 3 > at || at > chunk.length) throw new BadImage('its rules for channels are broken');
    rule = end + 3;
  }
  const part = (size: number) => {
    if (size > chunk.length - at) throw new BadImage('it ends too early');
    at += size;
    return chunk.subarray(at - size, at);
  };
  const parts = [part(unknown), part(ac), part(dc), part(rle)];
  // The second is of Huffman's code where the last number is 0.
  return parts.filter((p, k) => p.length > 0 && (k !== 1 || number(10) === 1));
}

/**
 * Walks a file's head and its table of chunks, so that a reader that trusts them can be given it.
 * @returns width and height @throws BadImage
 */
export function checkExr(bytes: Uint8Array): { width: number; height: number } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 8;
  const need = (count: number) => {
    if (count < 0 || at + count > bytes.length) throw new BadImage('it ends within its head');
  };
  const text = (): string => {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end - at > 255) throw new BadImage('its head is broken');
    const found = String.fromCharCode(...bytes.subarray(at, end));
    at = end + 1;
    return found;
  };
  need(0);
  const flags = view.getUint32(4, true) >>> 8;
  if (flags & ~0x4) throw new BadImage('it is tiled, deep or of several parts; only plain scan lines are read');
  let window: number[] | null = null;
  let compression = -1;
  let pixel = 0;
  for (let name = text(); name !== ''; name = text()) {
    const type = text();
    need(4);
    const size = view.getInt32(at, true);
    at += 4;
    need(size);
    if (name === 'dataWindow' && type === 'box2i' && size === 16) window = [0, 4, 8, 12].map((k) => view.getInt32(at + k, true));
    if (name === 'channels' && type === 'chlist') pixel = pixelBytes(bytes.subarray(at, at + size));
    if (name === 'compression' && size === 1) compression = bytes[at]!;
    at += size;
  }
  const lines = CHUNK_LINES[compression];
  if (!window || lines === undefined || pixel === 0)
    throw new BadImage('its head lacks a size, channels or a compression that is known');
  const [width, height] = [window[2]! - window[0]! + 1, window[3]! - window[1]! + 1];
  if (!(width > 0 && height > 0 && width <= MAX_SIDE && height <= MAX_SIDE))
    throw new BadImage(`it is ${width} by ${height}; at most ${MAX_SIDE} by ${MAX_SIDE} are read`);
  const chunks = Math.ceil(height / lines);
  need(chunks * 8);
  // Its reader takes the chunks as they stand after the table, whatever the table says: so they are looked at.
  for (let k = 0, chunk = at + chunks * 8; k < chunks; k++, chunk += 8 + view.getInt32(chunk + 4, true)) {
    if (chunk + 8 > bytes.length) throw new BadImage('it ends too early');
    const size = view.getInt32(chunk + 4, true);
    if (size < 0 || chunk + 8 + size > bytes.length) throw new BadImage('it ends too early');
    const content = bytes.subarray(chunk + 8, chunk + 8 + size);
    if (size === 0) continue;
    const own = Math.min(lines, height - (view.getInt32(chunk, true) - window[1]!));
    if (!(own >= 1)) throw new BadImage('a part of it lies outside its lines');
    const most = own * width * pixel;
    if (PLAIN.includes(compression) && size > most) throw new BadImage('a part of it is longer than its lines are');
    // What compression would not have made smaller is stored as it is.
    if (compression === DWAA || compression === DWAB) for (const part of dwaParts(content)) unpackedSize([part], most);
    else if ((compression === ZIPS || compression === ZIP || compression === PXR24) && size < most) unpackedSize([content], most);
  }
  return { width, height };
}
