/** Zips a bundle: megabytes of meshes take their time. */
import { writeBundle, type Bundle } from '../core/formats/bundle.js';

export type BundleAnswer =
  { readonly ok: true; readonly bytes: Uint8Array<ArrayBuffer> } | { readonly ok: false; readonly why: string };

addEventListener('message', ({ data }: MessageEvent<Bundle>) => {
  let answer: BundleAnswer;
  try {
    answer = { ok: true, bytes: writeBundle(data) };
  } catch (error) {
    answer = { ok: false, why: (error as Error).message };
  }
  postMessage(answer, { transfer: answer.ok ? [answer.bytes.buffer] : [] });
});
