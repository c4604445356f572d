/** The ruler of the time bar, and the playhead on it, which the clock moves by itself. */
import { useEffect, useRef, type PointerEvent } from 'react';
import { useBench, useBenchState } from '../../context.js';
import { timeOf } from './axis.js';

/** Seconds between labels, so that they stand at least 48 pixels apart. */
function labelStep(span: number, width: number): number {
  const least = (48 * span) / Math.max(1, width);
  return [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120, 300, 600].find((s) => s >= least) ?? 1200;
}

export function Ruler({ span, loops, width }: { span: number; loops: boolean; width: number }) {
  const { clock } = useBench();
  const fps = useBenchState((s) => s.effect.fps);
  const scrub = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    clock.pause();
    clock.set(Math.min(timeOf(event, span), loops ? span - 1 / fps : Infinity));
  };
  return (
    <div
      className="relative h-10 touch-none"
      data-testid="ruler"
      onPointerDown={(e) => (e.currentTarget.setPointerCapture(e.pointerId), scrub(e))}
      onPointerMove={scrub}
    >
      <Marks span={span} width={width} loops={loops} />
      <Playhead span={span} width={width} loops={loops} />
    </div>
  );
}

function Marks({ span, width, loops }: { span: number; width: number; loops: boolean }) {
  const step = labelStep(span, width);
  const labels = Array.from({ length: Math.floor(span / step + 1e-9) + 1 }, (_, k) => k * step).filter((t) => t < span || !loops);
  const ticks = Array.from({ length: Math.min(400, Math.floor((span / step) * 5 + 1e-9) + 1) }, (_, k) => (k * step) / 5);
  const x = (t: number) => (t / span) * width;
  return (
    <svg className="absolute inset-0 h-full w-full" aria-hidden>
      {ticks.map((t) => (
        <line key={t} x1={x(t)} x2={x(t)} y1={24} y2={28} stroke="var(--color-line)" />
      ))}
      {labels.map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={14} y2={28} stroke="var(--color-edge)" />
          <text x={x(t) + 4} y={22} className="num" fontSize={10} fill="var(--color-muted)">
            {Number(t.toFixed(2))}
          </text>
        </g>
      ))}
      <line x1={0} x2={width} y1={28.5} y2={28.5} stroke="var(--color-line)" />
    </svg>
  );
}

function Playhead({ span, width, loops }: { span: number; width: number; loops: boolean }) {
  const { clock } = useBench();
  const fps = useBenchState((s) => s.effect.fps);
  const head = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const show = (time: number) => {
      const share = loops ? time / span : (time % span) / span;
      head.current!.style.transform = `translateX(${share * width}px)`;
      head.current!.setAttribute('aria-valuenow', time.toFixed(3));
      head.current!.setAttribute('aria-valuetext', `${time.toFixed(2)} seconds`);
    };
    show(clock.time);
    return clock.onTick(show);
  }, [clock, span, width, loops]);
  return (
    <div
      ref={head}
      role="slider"
      tabIndex={0}
      aria-label="Time"
      aria-valuemin={0}
      aria-valuemax={span}
      className="absolute top-0 bottom-0 left-0 w-0"
      onKeyDown={(e) => {
        if (e.key === 'ArrowLeft') clock.step(-1);
        else if (e.key === 'ArrowRight') clock.step(1);
        else if (e.key === 'Home') clock.set(0);
        // The loop's last frame: its end is its beginning.
        else if (e.key === 'End') clock.set(loops ? Math.max(0, span - 1 / fps) : span);
        else if (e.key === 'PageDown') clock.set(Math.max(0, clock.time - 1));
        else if (e.key === 'PageUp') clock.set(Math.min(loops ? span - 1 / fps : Infinity, clock.time + 1));
        else return;
        e.preventDefault();
      }}
    >
      <svg width="12" height="40" className="absolute -left-1.5" aria-hidden>
        <path d="M1 4 h10 v5 l-5 5 l-5 -5 z" fill="var(--color-wisp)" />
        <rect x="5.25" y="12" width="1.5" height="26" fill="var(--color-wisp)" />
      </svg>
    </div>
  );
}
