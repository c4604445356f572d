/** A module of `module.ts` at work: samples in, values out. */
import { lookAtKeys } from '../../base/keys.js';
import { GREY, lookUp, type Picture } from '../../base/picture.js';
import { LEAVES, restOf, type Leaf } from '../../ir/leaves.js';
import { ASKED } from './functions.js';
import type { WasmModule } from './module.js';

/** Values for each leaf: one number a component, or one array a component for a leaf that varies. */
export type LeafValues = Partial<Record<Leaf, readonly (number | Float32Array)[]>>;

const valuesOf = (leaves: LeafValues, leaf: Leaf) =>
  leaves[leaf] ?? (leaf === 'timeRest' ? restOf(leaves.time) : LEAVES[leaf].fallback);

/** A running module. Not shared between callers: it has one memory. */
export class WasmRunner {
  private readonly floats: Float32Array;
  /** The live numbers of the present run. */
  private numbers: ArrayLike<number> = [];
  private readonly run: (bytes: number, unused: number) => void;

  private constructor(
    readonly module: WasmModule,
    instance: WebAssembly.Instance,
  ) {
    const { memory, run } = instance.exports as { memory: WebAssembly.Memory; run: (n: number, unused: number) => void };
    this.floats = new Float32Array(memory.buffer);
    this.run = run;
  }

  /**
   * Synchronous compilation: for workers, Node and modules of a few kilobytes.
   * @param pictures images by their `pictureKey`; looked at on every run, so that late ones count
   */
  static make(module: WasmModule, pictures: ReadonlyMap<string, Picture> = new Map()): WasmRunner {
    let memory: Float32Array | null = null;
    const place = module.scratchAt / 4;
    const look = (number: number) => {
      const image = module.images[number];
      const answer = 4 * ASKED;
      if (image) {
        const picture = pictures.get(image.asset) ?? GREY;
        for (let k = place; k < place + 4; k++)
          lookUp(picture, memory![k]!, memory![k + 4]!, memory![k + 8]!, image.wrap, image.filter, memory!, k + answer, 4);
        return;
      }
      const table = module.tables[number - module.images.length]!;
      for (let k = place; k < place + 4; k++) lookAtKeys(runner.numbers, table, memory![k]!, memory!, k + answer, 4);
    };
    const compiled = new WebAssembly.Module(module.bytes);
    const instance = new WebAssembly.Instance(
      compiled,
      module.images.length + module.tables.length > 0 ? { host: { look } } : {},
    );
    const runner = new WasmRunner(module, instance);
    memory = runner.floats;
    return runner;
  }

  private fill(params: ArrayLike<number>, leaves: LeafValues, start: number, size: number): void {
    const { floats, module } = this;
    if (start === 0) {
      this.numbers = params;
      const at = module.paramsAt / 4;
      for (const k of module.params) floats[at + k] = params[k]!;
      for (const { leaf, at } of module.uniforms) {
        const values = valuesOf(leaves, leaf);
        values.forEach((v, k) => (floats[at / 4 + k] = typeof v === 'number' ? v : v[0]!));
      }
    }
    for (const { leaf, at } of module.planes) {
      const values = valuesOf(leaves, leaf);
      values.forEach((v, k) => {
        const place = at / 4 + k * module.capacity;
        // An array got from `inputPlane` is there already.
        if (typeof v !== 'number' && v.buffer === floats.buffer) return;
        if (typeof v === 'number') floats.fill(v, place, place + size);
        else floats.set(v.length === size ? v : v.subarray(start, start + size), place);
      });
    }
    this.run(Math.ceil(size / 4) * 16, 0);
  }

  /** Where a varying leaf's component is read from: numbers written here need no copy. At most `capacity` of them. */
  inputPlane(leaf: Leaf, lane: number): Float32Array {
    const plane = this.module.planes.find((p) => p.leaf === leaf);
    if (!plane) throw new Error(`${leaf} does not vary in this module`);
    const place = plane.at / 4 + lane * this.module.capacity;
    return this.floats.subarray(place, place + this.module.capacity);
  }

  private plane(root: number, lane: number, size: number): Float32Array {
    const place = this.module.outputs[root]!.at / 4 + lane * this.module.capacity;
    return this.floats.subarray(place, place + size);
  }

  /**
   * The results where they were computed: valid until the next call.
   * @param count samples, at most the module's capacity
   * @returns for each root, one array a component
   */
  view(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][] {
    if (count > this.module.capacity) throw new Error(`${count} samples in a module for ${this.module.capacity}`);
    this.fill(params, leaves, 0, count);
    return this.module.outputs.map(({ width }, r) => Array.from({ length: width }, (_, lane) => this.plane(r, lane, count)));
  }

  /**
   * @param count samples
   * @returns for each root, one array a component, each of `count` numbers, to keep
   */
  evaluate(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][] {
    const { capacity } = this.module;
    const outputs = this.module.outputs.map(({ width }) => Array.from({ length: width }, () => new Float32Array(count)));
    for (let start = 0; start < count; start += capacity) {
      const size = Math.min(capacity, count - start);
      this.fill(params, leaves, start, size);
      outputs.forEach((root, r) => root.forEach((array, lane) => array.set(this.plane(r, lane, size), start)));
    }
    return outputs;
  }
}
