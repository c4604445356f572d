/**
 * The Headroom gauge: the picture's light in stops around the bloom threshold, its peak, what glows and what clips; and, as a
 * diamond, the effect's own light at its brightest over the loop: the number that advice about glowing goes by.
 */
import { useEffect, useRef } from 'react';
import { peakStops } from '../../../core/analysis/glow.js';
import { LEVELS_BINS, LEVELS_HIGH, LEVELS_LOW, zeroStop, type Levels } from '../../../core/analysis/levels.js';
import { useBench } from '../../context.js';
import { watchAge } from './age.js';

const WIDTH = 132;
const HEIGHT = 116;
/** Where the bars begin, right of the axis. */
const LEFT = 26;
const STEP = HEIGHT / LEVELS_BINS;

const yOf = (stops: number) => ((LEVELS_HIGH - stops) / (LEVELS_HIGH - LEVELS_LOW)) * HEIGHT;
const share = (x: number) => `${x > 0 && x < 0.001 ? '<0.1' : (x * 100).toFixed(1)}%`;
const signed = (stops: number) => `${stops < 0 ? '−' : '+'}${Math.abs(stops).toFixed(1)}`;

/** The bars of the bins whose lower end lies from `low` to `high` stops. Their length goes with the root of the share, so that little is seen too. */
function bars({ bins }: Levels, low: number, high: number): string {
  const most = Math.max(...bins, 1e-6);
  let path = '';
  bins.forEach((value, k) => {
    const stops = LEVELS_LOW + k / 4;
    if (value <= 0 || stops < low || stops >= high) return;
    const length = Math.max(1, Math.sqrt(value / most) * (WIDTH - LEFT));
    path += `M${LEFT} ${(HEIGHT - (k + 1) * STEP + 0.3).toFixed(2)}h${length.toFixed(1)}v${(STEP - 0.6).toFixed(2)}h${(-length).toFixed(1)}z`;
  });
  return path;
}

const Axis = () => (
  <>
    {[4, 0, -4, -8].map((stops) => (
      <text key={stops} x={LEFT - 6} y={yOf(stops) + 3.5} textAnchor="end" className="num fill-muted text-[10px]">
        {stops > 0 ? `+${stops}` : String(stops).replace('-', '−')}
      </text>
    ))}
  </>
);

/** @param stops of the effect's own light at its brightest over the loop; null where it gives none */
function showOwn(mark: SVGGElement, stops: number | null): void {
  mark.setAttribute('visibility', stops === null || !Number.isFinite(stops) ? 'hidden' : 'visible');
  if (stops === null) return;
  mark.setAttribute('transform', `translate(0 ${yOf(Math.max(LEVELS_LOW, Math.min(LEVELS_HIGH, stops))).toFixed(1)})`);
  mark.dataset.stops = String(stops);
  mark.querySelector('title')!.textContent = `The effect's own light at its brightest over the loop: ${signed(stops)} stops`;
}

interface Parts {
  readonly under: SVGPathElement;
  readonly over: SVGPathElement;
  readonly peak: SVGGElement;
  readonly threshold: SVGTextElement;
  readonly words: HTMLParagraphElement;
}

/** @param gone the picture has changed since so long that the numbers say nothing */
function showLevels({ under, over, peak, threshold, words }: Parts, levels: Levels, zero: number, gone: boolean): void {
  under.setAttribute('d', bars(levels, LEVELS_LOW, 0));
  over.setAttribute('d', bars(levels, 0, LEVELS_HIGH));
  const stops = levels.peak > 0 ? Math.log2(levels.peak / zero) : -Infinity;
  const y = yOf(Math.max(LEVELS_LOW, Math.min(LEVELS_HIGH, stops)));
  peak.setAttribute('transform', `translate(0 ${y.toFixed(1)})`);
  peak.setAttribute('visibility', Number.isFinite(stops) && !gone ? 'visible' : 'hidden');
  const label = peak.querySelector('text')!;
  label.textContent = `peak ${signed(stops)}`;
  // Their labels never lie over one another: the threshold's gives way to the other side of its line, and the peak's too
  // where it would follow it there.
  const below = y - yOf(0);
  const crowded = Number.isFinite(stops) && below > -2 && below < 26;
  label.setAttribute('y', y < 12 || (crowded && below < 13) ? '10' : '-3');
  threshold.setAttribute('y', String(yOf(0) + (crowded ? -4 : 11)));
  const [glows, clips] = words.querySelectorAll('b');
  glows!.textContent = gone ? '–' : share(levels.glows);
  clips!.textContent = gone ? '–' : share(levels.clips);
  for (const what of ['peak', 'glows', 'clips'] as const) words.dataset[what] = gone ? '' : String(levels[what]);
}

export function Headroom() {
  const session = useBench();
  const gauge = useRef<HTMLElement>(null);
  const under = useRef<SVGPathElement>(null);
  const over = useRef<SVGPathElement>(null);
  const peak = useRef<SVGGElement>(null);
  const threshold = useRef<SVGTextElement>(null);
  const words = useRef<HTMLParagraphElement>(null);
  const own = useRef<SVGGElement>(null);
  // A gauge follows the picture: it is drawn without React.
  useEffect(() => {
    const show = () => {
      const { levels, stage, brightest } = session.store.getState();
      if (own.current) showOwn(own.current, brightest && peakStops(brightest, stage.optics));
      if (!levels || !gauge.current) return;
      const parts = {
        under: under.current!,
        over: over.current!,
        peak: peak.current!,
        threshold: threshold.current!,
        words: words.current!,
      };
      showLevels(parts, levels, zeroStop(stage.optics.bloom.threshold), gauge.current.dataset.age === 'gone');
    };
    show();
    const ends = [
      session.store.subscribe(show),
      session.frames.watchLevels(),
      watchAge(session, (age) => {
        if (gauge.current!.dataset.age === age) return;
        gauge.current!.dataset.age = age;
        show();
      }),
    ];
    return () => ends.forEach((end) => end());
  }, [session]);
  return (
    <section
      ref={gauge}
      aria-label="Headroom"
      title="The whole picture's luminance now, in stops: 0 is the bloom threshold. Bars go with the root of their share. The diamond is the effect's own light at its brightest over the loop, which advice goes by"
      className="gauge flex h-full w-[156px] shrink-0 flex-col border-l border-line px-3 pt-2 pb-1.5"
    >
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="head text-[13px] leading-5">Headroom</h2>
        <span className="text-[11px] text-muted">stops</span>
      </div>
      <svg width={WIDTH} height={HEIGHT} className="overflow-visible" aria-hidden>
        <Axis />
        <line x1={LEFT} x2={LEFT} y1={0} y2={HEIGHT} stroke="var(--color-edge)" />
        <path ref={under} fill="var(--color-thread)" />
        <path ref={over} fill="var(--color-ink)" />
        <line x1={LEFT} x2={WIDTH} y1={yOf(0)} y2={yOf(0)} stroke="var(--color-muted)" strokeDasharray="2 2" />
        <text ref={threshold} x={WIDTH} y={yOf(0) + 11} textAnchor="end" className="fill-muted text-[11px]">
          threshold
        </text>
        <g ref={own} data-testid="own-peak" visibility="hidden">
          <title />
          <rect x={LEFT - 6} y={-6} width={12} height={12} fill="transparent" />
          <path d={`M${LEFT} -4l4 4l-4 4l-4 -4z`} fill="var(--color-panel)" stroke="var(--color-ink)" />
        </g>
        <g ref={peak} visibility="hidden">
          <line x1={LEFT} x2={WIDTH} y1={0} y2={0} stroke="var(--color-ink)" />
          <text x={WIDTH} y={-3} textAnchor="end" className="num fill-ink text-[10px]" />
        </g>
      </svg>
      <p ref={words} data-testid="headroom" className="mt-auto flex justify-between text-[11px] text-muted">
        <span>
          glows <b className="num font-normal text-ink">–</b>
        </span>
        <span>
          clips <b className="num font-normal text-ink">–</b>
        </span>
      </p>
    </section>
  );
}
