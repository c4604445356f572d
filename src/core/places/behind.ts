/** What lies behind a surface, at many points: how far it is, in three measures, and where. */
import type { LeafValues } from '../targets/wasm/runner.js';

type Point = readonly [number, number, number];

export class Gaps {
  private readonly along: Float32Array;
  private readonly ray: Float32Array;
  private readonly down: Float32Array;
  private readonly there: readonly Float32Array[];

  constructor(count: number) {
    [this.along, this.ray, this.down] = [0, 1, 2].map(() => new Float32Array(count)) as [
      Float32Array,
      Float32Array,
      Float32Array,
    ];
    this.there = [0, 1, 2].map(() => new Float32Array(count));
  }

  /**
   * @param point of the surface, and @param there what lies behind it on the line from the eye, on the stage
   * @param cosine between that line and the axis of the view; 1 for an eye that looks along the line
   */
  put(k: number, point: Point, there: Point, cosine: number): void {
    const ray = Math.hypot(there[0] - point[0], there[1] - point[1], there[2] - point[2]);
    this.along[k] = ray * cosine;
    this.ray[k] = ray;
    this.down[k] = point[1] - there[1];
    for (let lane = 0; lane < 3; lane++) this.there[lane]![k] = there[lane]!;
  }

  get leaves(): LeafValues {
    const { along, ray, down, there } = this;
    return { depthGap: [along], depthGapRay: [ray], depthGapDown: [down], behindPosition: there };
  }
}
