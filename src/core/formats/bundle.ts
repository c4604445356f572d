/**
 * The bundle, `*.wispen`: a ZIP of effects, the stages they stand on and the files those refer to, so that it opens
 * elsewhere to the same picture. Its names are exact: `effects/ID.wispen.json`, `stages/ID.wispen-stage.json`,
 * `assets/SHA256`; the first effect is the one the bundle is about.
 *
 * Limits: 160 MB, 512 files, 256 MB unpacked, 4 MB a document, 64 MB an asset.
 */
import { own } from '../base/wholesome.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { Unzip, UnzipInflate, zipSync, type Zippable } from 'fflate';
import { readEffect } from '../effect/read.js';
import { MAX_FILE_BYTES, type Effect } from '../effect/schema.js';
import { writeEffect } from '../effect/write.js';
import { MAX_MESH_BYTES } from './glb.js';
import { readStage, writeStage, type Stage } from '../scene/stage.js';
import { copyStage } from '../scene/edits.js';

export const MAX_BUNDLE_BYTES = 160 * 1024 * 1024;
export const BUNDLE_LIMITS = { files: 512, unpacked: 256 * 1024 * 1024, document: MAX_FILE_BYTES, asset: MAX_MESH_BYTES };
/** Packed bytes handed over at a time: at most some thousand times as much comes out before the limits are looked at. */
const PIECE = 16 * 1024;

export interface Bundle {
  readonly effects: readonly Effect[];
  readonly stages: readonly Stage[];
  /** By SHA-256, 64 small hexadecimal digits. */
  readonly assets: ReadonlyMap<string, Uint8Array>;
}

export type BundleResult = { readonly ok: true; readonly bundle: Bundle } | { readonly ok: false; readonly why: string };

type Folder = 'effects' | 'stages' | 'assets';
const NAMES: readonly (readonly [Folder, RegExp, 'document' | 'asset'])[] = [
  ['effects', /^effects\/[\w…-]{1,64}\.wispen\.json$/, 'document'],
  ['stages', /^stages\/[\w-]{1,64}\.wispen-stage\.json$/, 'document'],
  ['assets', /^assets\/[0-9a-f]{64}$/, 'asset'],
];
const FOLDER_ENTRY = /^(effects|stages|assets)\/$/;

class Refused extends Error {}

const megabytes = (bytes: number) => `${Math.round(bytes / 1048576)} MB`;
const quoted = (name: string) => JSON.stringify(name.slice(0, 80));

/** The files of the archive, unpacked piece by piece so that none can grow beyond its limit. @throws Refused */
function unpack(bytes: Uint8Array, limits: typeof BUNDLE_LIMITS): { folder: Folder; name: string; content: Uint8Array }[] {
  const files: { folder: Folder; name: string; pieces: Uint8Array[]; size: number; done: boolean }[] = [];
  const names = new Set<string>();
  let total = 0;
  const archive = new Unzip((entry) => {
    if (FOLDER_ENTRY.test(entry.name)) return;
    const kind = NAMES.find(([, pattern]) => pattern.test(entry.name));
    if (!kind) throw new Refused(`It holds ${quoted(entry.name)}, which has no place in a bundle.`);
    if (names.has(entry.name)) throw new Refused(`It holds ${quoted(entry.name)} twice.`);
    if (names.size >= limits.files) throw new Refused(`It holds more than ${limits.files} files.`);
    names.add(entry.name);
    const [folder, , sort] = kind;
    const most = limits[sort];
    const file = { folder, name: entry.name, pieces: [] as Uint8Array[], size: 0, done: false };
    files.push(file);
    entry.ondata = (error, piece, final) => {
      // What is thrown below comes round here once more.
      if (error) throw error instanceof Refused ? error : new Refused(`Its file ${quoted(entry.name)} cannot be unpacked.`);
      file.size += piece.length;
      total += piece.length;
      if (file.size > most) throw new Refused(`Its file ${quoted(entry.name)} is larger than ${megabytes(most)}.`);
      if (total > limits.unpacked) throw new Refused(`It is larger than ${megabytes(limits.unpacked)} when unpacked.`);
      file.pieces.push(piece);
      file.done = final;
    };
    entry.start();
  });
  archive.register(UnzipInflate);
  try {
    for (let at = 0; at < bytes.length; at += PIECE) archive.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
  } catch (error) {
    if (error instanceof Refused) throw error;
    throw new Refused('It is damaged, or cut short.');
  }
  if (files.some((f) => !f.done) || !endsAsArchive(bytes)) throw new Refused('It is damaged, or cut short.');
  return files.map(({ folder, name, pieces, size }) => {
    const content = new Uint8Array(size);
    let at = 0;
    for (const piece of pieces) {
      content.set(piece, at);
      at += piece.length;
    }
    return { folder, name, content };
  });
}

/** Whether the record that ends every ZIP is there (PKWARE APPNOTE, 4.3.16), after which only a comment may come. */
function endsAsArchive(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = bytes.length - 22; at >= 0 && at >= bytes.length - 22 - 65535; at--)
    if (view.getUint32(at, true) === 0x06054b50) return view.getUint16(at + 20, true) === bytes.length - at - 22;
  return false;
}

function parse(name: string, content: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(content));
  } catch {
    throw new Refused(`Its file ${quoted(name)} is not JSON.`);
  }
}

/** @param bytes of a `*.wispen` file. Nothing is thrown for bad input: it is refused with a sentence */
export function readBundle(bytes: Uint8Array, limits = BUNDLE_LIMITS): BundleResult {
  if (bytes.length > MAX_BUNDLE_BYTES)
    return { ok: false, why: `It is larger than ${megabytes(MAX_BUNDLE_BYTES)}, the most that is read.` };
  if (!(bytes[0] === 0x50 && bytes[1] === 0x4b)) return { ok: false, why: 'It is not a bundle: a bundle is a ZIP archive.' };
  try {
    const effects: Effect[] = [];
    const stages: Stage[] = [];
    const assets = new Map<string, Uint8Array>();
    for (const { folder, name, content } of unpack(bytes, limits)) {
      if (folder === 'assets') {
        const sha = name.slice('assets/'.length);
        if (bytesToHex(sha256(content)) !== sha)
          throw new Refused(`Its file ${quoted(name)} is not what its name says: the SHA-256 differs.`);
        assets.set(sha, content);
        continue;
      }
      const parsed = parse(name, content);
      const read = folder === 'effects' ? readEffect(parsed) : readStage(parsed);
      if (!read.ok) throw new Refused(`Its file ${quoted(name)} cannot be read. ${read.problems[0]!.message}`);
      if ('effect' in read) effects.push(read.effect);
      else stages.push(read.stage);
    }
    if (effects.length === 0) throw new Refused('It holds no effect.');
    for (const list of [effects, stages])
      if (new Set(list.map((d) => d.id)).size < list.length) throw new Refused('Two of its documents have the same id.');
    return { ok: true, bundle: { effects, stages, assets } };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, why: error.message };
    throw error;
  }
}

/** Dated alike, so that the same documents give the same bytes. */
const MOMENT = '1980-01-02T00:00:00';

/** @param effects the one the bundle is about first */
export function writeBundle({ effects, stages, assets }: Bundle): Uint8Array<ArrayBuffer> {
  const text = (t: string) => new TextEncoder().encode(t);
  const files: Zippable = {};
  for (const e of effects) files[`effects/${e.id}.wispen.json`] = text(writeEffect(e));
  for (const s of stages) files[`stages/${s.id}.wispen-stage.json`] = text(writeStage(s));
  for (const [sha, content] of assets) files[`assets/${sha}`] = content;
  return zipSync(files, { mtime: MOMENT, level: 6 }) as Uint8Array<ArrayBuffer>;
}

/** SHA-256 names of the files that documents refer to. */
export const assetsOf = ({ effects, stages }: Pick<Bundle, 'effects' | 'stages'>): string[] => [
  ...new Set([...effects, ...stages].flatMap((d) => Object.values(d.assets).map((a) => a.sha256))),
];

/**
 * The bundle under ids of its own, so that nothing that is there is written over.
 * @param freshId gives an id that is not in use
 * @param stageName gives a stage a name that is not in use
 */
export function withFreshIds(
  bundle: Bundle,
  freshId: () => string,
  stageName: (name: string) => string,
  effectName: (name: string) => string = (name) => name,
): Bundle {
  const worn = Object.fromEntries(bundle.effects.map((e) => [e.id, freshId()]));
  const stood = Object.fromEntries(bundle.stages.map((s) => [s.id, freshId()]));
  return {
    effects: bundle.effects.map((e) => ({
      ...e,
      id: worn[e.id]!,
      name: effectName(e.name),
      home: e.home && { ...e.home, stage: own(stood, e.home.stage) ?? e.home.stage },
    })),
    stages: bundle.stages.map((s) => copyStage(s, { id: stood[s.id]!, name: stageName(s.name), worn })),
    assets: bundle.assets,
  };
}
