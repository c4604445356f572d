/** Gets a mesh ready for the brush: a small one at once, a large one in a worker, which can be given up. */
import { proxy } from 'comlink';
import type { BufferGeometry } from 'three';
import type { Prepared } from '../core/paint/prepared.js';
import type { Canvas } from '../core/paint/paint.js';
import type { BrushOnMesh } from '../render/brush.js';
import { plainOf } from '../render/canvas.js';
import type { StageRenderer } from '../render/renderer.js';
import { prepareMesh } from '../workers/canvas.js';
import type { Preparer } from '../workers/canvas.worker.js';
import { inWorker } from './fileWorker.js';

/** Triangles that are made ready in less time than a worker takes to begin. */
const SMALL = 20_000;

/** @param onShare how much of it is done, 0 to 1 @throws with a sentence, and the signal's reason */
async function prepare(geometry: BufferGeometry, onShare: (share: number) => void, signal: AbortSignal): Promise<Prepared> {
  const mesh = plainOf(geometry);
  if ((mesh.index?.length ?? mesh.position.length / 3) / 3 < SMALL) return prepareMesh(mesh);
  const worker = new Worker(new URL('../workers/canvas.worker.ts', import.meta.url), { type: 'module' });
  const given = new Promise<never>((_, reject) =>
    signal.addEventListener('abort', () => {
      worker.terminate();
      reject(signal.reason as Error);
    }),
  );
  const made = inWorker<Preparer, Prepared>(
    worker,
    (remote) =>
      remote.prepare(
        mesh,
        proxy((share) => !signal.aborted && onShare(share)),
      ) as Promise<Prepared>,
  );
  return Promise.race([made, given]);
}

export interface PreparingPorts {
  /** How far it is; null when it is done with. */
  readonly onShare: (at: { readonly prop: string; readonly share: number } | null) => void;
  readonly onTrouble: (sentence: string) => void;
}

/** One mesh at a time: another one ends the one before. */
export class Preparing {
  private now: AbortController | null = null;

  constructor(private readonly ports: PreparingPorts) {}

  /** @returns null where it is given up, overtaken or failed, which is said */
  async of(prop: string, geometry: BufferGeometry): Promise<Prepared | null> {
    this.stop();
    const mine = (this.now = new AbortController());
    try {
      const made = await prepare(geometry, (share) => this.ports.onShare({ prop, share }), mine.signal);
      return this.now === mine ? made : null;
    } catch (error) {
      if (!mine.signal.aborted) this.ports.onTrouble((error as Error).message);
      return null;
    } finally {
      if (this.now === mine) this.end();
    }
  }

  stop(): void {
    const { now } = this;
    if (!now) return;
    this.end();
    now.abort(new Error('It is not wanted any more.'));
  }

  private end(): void {
    this.now = null;
    this.ports.onShare(null);
  }
}

/** A prop in hand, ready for the brush. */
export interface Painted {
  readonly prop: string;
  /** What it is made of. */
  readonly shape: string;
  readonly renderer: StageRenderer;
  readonly canvas: Canvas;
  readonly brush: BrushOnMesh;
  /** What the mesh had before it was painted. */
  readonly colour: ArrayLike<number> | null;
}
