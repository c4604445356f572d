/** The guided start: a glow in five steps on one's own sheet. Each is done when the sheet says so, however that was come to. */
import { reachedOutputs } from '../../../core/analysis/where.js';
import { isLink, strandsOf } from '../../../core/effect/schema.js';
import { luminance } from '../../../core/optics/tone.js';
import type { BenchState } from '../../../session/state.js';

export type Seen = Pick<BenchState, 'effect' | 'stage' | 'readings' | 'brightest'>;

export interface Step {
  readonly title: string;
  /** What to press; what stands between backticks is drawn as keys. */
  readonly says: string;
  readonly done: (seen: Seen) => boolean;
}

const emissionOf = ({ effect }: Seen): string | null => {
  const { emission } = effect.outputs;
  return isLink(emission) ? emission.from : null;
};

export const STEPS: readonly Step[] = [
  {
    title: 'A hue',
    says: 'Press `/`, type `colour #ff7a2e` and press `Enter`. That is a strand: a named step whose value you can always see.',
    done: ({ readings }) => [...readings.values()].some((r) => r.kind === 'rgb'),
  },
  {
    title: 'Light',
    says: 'With the colour chosen press `F`, then `Enter` on Emission. The surface gives that light now.',
    done: (seen) => emissionOf(seen) !== null,
  },
  {
    title: 'Brighter than white',
    says: 'Press `/`, type `intensity 12`, `Enter`, then `F` and `Enter` again. What is over the bloom threshold spreads its light: the gauge below right shows by how much.',
    done: ({ brightest, stage: { optics } }) =>
      brightest !== null && luminance(brightest.rgb) * 2 ** optics.exposure > optics.bloom.threshold * 1.5,
  },
  {
    title: 'Movement',
    says: 'Press `/`, type `wave low 0.3` and `Enter`; then `/`, `mul Intensity, Wave`, `Enter`, and `F`, `Enter`. `Space` plays it.',
    done: (seen) => {
      const reached = reachedOutputs(seen.effect);
      return strandsOf(seen.effect).some((s) => seen.readings.get(s.id)?.rate === 'frame' && reached.get(s.id)!.has('emission'));
    },
  },
  {
    title: 'A dial',
    says: 'On the last row press `W` and choose “Multiply by a new dial”. The dial stands in the deck: drag it, and the next frame shows it.',
    done: ({ effect }) => effect.dials.length > 0,
  },
];

/** How many steps are done: the first that is not is the one to do. */
export const stepsDone = (seen: Seen): number => {
  const next = STEPS.findIndex((s) => !s.done(seen));
  return next < 0 ? STEPS.length : next;
};
