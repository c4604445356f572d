/** Zips a bundle: megabytes of meshes take their time. */
import { expose, transfer } from 'comlink';
import { writeBundle, type Bundle } from '../core/formats/bundle.js';

const zipper = {
  zip(bundle: Bundle): Uint8Array<ArrayBuffer> {
    const bytes = writeBundle(bundle);
    return transfer(bytes, [bytes.buffer]);
  },
};
export type Zipper = typeof zipper;

expose(zipper);
