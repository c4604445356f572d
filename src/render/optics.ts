/** Exposure, bloom, tone curve: from the scene-linear picture to the display. */
import {
  HalfFloatType,
  LinearFilter,
  type RawShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderTarget,
  type Texture,
  type WebGLRenderer,
} from 'three';
import type { Optics } from '../core/scene/stage.js';
import { NO_GRADE } from '../core/optics/grade.js';
import { heldBend, lensScale } from '../core/optics/lens.js';
import { bloomLevels, type BloomLevel } from '../core/optics/bloom.js';
import { Screen, pass } from './screen.js';
import { DISPLAY, DISPLAY_BENT, DOWN, MEASURE, PREFILTER, UP } from './shaders.js';

const target = (width: number, height: number) =>
  new WebGLRenderTarget(Math.max(1, width), Math.max(1, height), {
    type: HalfFloatType,
    minFilter: LinearFilter,
    magFilter: LinearFilter,
    depthBuffer: false,
  });

const TONE_NUMBERS: Record<Optics['tone'], number> = { linear: 0, 'khronos-neutral': 1, aces: 2, 'hue-kept': 3 };

/** What shows a picture, bent or not. */
const DISPLAYED = () => ({
  ...{ picture: { value: null }, bloom: { value: null }, exposure: { value: 1 }, bloomIntensity: { value: 0 } },
  ...{ tone: { value: 1 }, grades: { value: false }, saturation: { value: 1 } },
  ...{ slope: { value: [1, 1, 1] }, offset: { value: [0, 0, 0] }, power: { value: [1, 1, 1] } },
});

interface Chain {
  readonly key: string;
  readonly levels: readonly BloomLevel[];
  /** Going down, and the sums going up; the coarsest sum is its own level. */
  readonly down: readonly WebGLRenderTarget[];
  readonly up: readonly WebGLRenderTarget[];
}

export class OpticsPasses {
  private readonly screen: Screen;
  private chain: Chain | null = null;
  private readonly prefilter = pass(PREFILTER, {
    picture: { value: null },
    pixel: { value: new Vector2() },
    exposure: { value: 1 },
    threshold: { value: 1 },
    knee: { value: 0.5 },
  });
  private readonly down = pass(DOWN, { picture: { value: null }, pixel: { value: new Vector2() } });
  private readonly up = pass(UP, {
    picture: { value: null },
    coarser: { value: null },
    pixel: { value: new Vector2() },
    weight: { value: 1 },
    coarserWeight: { value: 1 },
  });
  private readonly display = pass(DISPLAY, DISPLAYED());
  private readonly bentDisplay = pass(DISPLAY_BENT, { ...DISPLAYED(), lens: { value: new Vector3(0, 1, 1) } });

  private readonly measuring = pass(MEASURE, { picture: { value: null }, exposure: { value: 1 } });

  constructor(renderer: WebGLRenderer) {
    this.screen = new Screen(renderer);
  }

  private run(material: RawShaderMaterial, into: WebGLRenderTarget | null, values: Record<string, unknown>): void {
    this.screen.run(material, into, values);
  }

  private chainFor(width: number, height: number, spread: number): Chain {
    const key = `${width}x${height} ${spread}`;
    if (this.chain?.key === key) return this.chain;
    const levels = bloomLevels(spread, height);
    const sameSize = this.chain?.key.startsWith(`${width}x${height} `);
    if (sameSize) return (this.chain = { ...this.chain!, key, levels });
    this.drop();
    const sized = levels.map(({ lines }) => target(Math.round((lines * width) / height), lines));
    const sums = levels.slice(0, -1).map(({ lines }) => target(Math.round((lines * width) / height), lines));
    return (this.chain = { key, levels, down: sized, up: sums });
  }

  /** @param picture scene-linear; @param into null for the canvas; `raw` leaves out bloom and tone curve @param lensBend of `core/optics/lens` */
  draw(
    picture: Texture,
    width: number,
    height: number,
    optics: Optics,
    into: WebGLRenderTarget | null,
    raw = false,
    lensBend = 0,
  ): void {
    const lens = { bend: lensBend, aspect: width / height };
    const { on, intensity } = optics.bloom;
    const blooms = on && intensity > 0 && !raw;
    this.run(lensBend === 0 ? this.display : this.bentDisplay, into, {
      picture,
      bloom: blooms ? this.halo(picture, width, height, optics).texture : picture,
      exposure: 2 ** optics.exposure,
      bloomIntensity: blooms ? intensity : 0,
      tone: raw ? 0 : TONE_NUMBERS[optics.tone],
      grades: !raw && optics.grade !== undefined,
      ...(optics.grade ?? NO_GRADE),
      ...(lensBend === 0 ? {} : { lens: new Vector3(heldBend(lensBend, lens.aspect), lens.aspect, lensScale(lens)) }),
    });
  }

  /** What bloom adds, before its intensity: exposed, scene-linear, at the size of the chain's finest level. */
  halo(picture: Texture, width: number, height: number, optics: Optics): WebGLRenderTarget {
    const exposure = 2 ** optics.exposure;
    const { threshold, knee, spread } = optics.bloom;
    const { levels, down, up } = this.chainFor(width, height, spread);
    const pixelOf = (t: WebGLRenderTarget) => new Vector2(1 / t.width, 1 / t.height);
    this.run(this.prefilter, down[0]!, { picture, pixel: pixelOf(down[0]!), exposure, threshold, knee });
    for (let k = 1; k < down.length; k++)
      this.run(this.down, down[k]!, { picture: down[k - 1]!.texture, pixel: pixelOf(down[k]!) });
    let sum = down[down.length - 1]!;
    for (let k = down.length - 2; k >= 0; k--) {
      const coarsest = k === down.length - 2;
      this.run(this.up, up[k]!, {
        picture: down[k]!.texture,
        coarser: sum.texture,
        pixel: pixelOf(sum),
        weight: levels[k]!.weight,
        coarserWeight: coarsest ? levels[k + 1]!.weight : 1,
      });
      sum = up[k]!;
    }
    return sum;
  }

  /** Writes the exposed luminance of every pixel, four to a texel, into a target of half the size. */
  measure(picture: Texture, exposure: number, into: WebGLRenderTarget): void {
    this.run(this.measuring, into, { picture, exposure: 2 ** exposure });
  }

  private drop(): void {
    for (const t of [...(this.chain?.down ?? []), ...(this.chain?.up ?? [])]) t.dispose();
    this.chain = null;
  }

  dispose(): void {
    this.drop();
    for (const m of [this.prefilter, this.down, this.up, this.display, this.bentDisplay, this.measuring]) m.dispose();
    this.screen.dispose();
  }
}
