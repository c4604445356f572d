/** Time: play, pause, step, scrub, the loop's length. The playhead is moved by the clock itself, not by React. */
import { Pause, Play, Repeat, StepBack, StepForward } from 'lucide-react';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { setLoop } from '../../core/effect/edits.js';
import { NumberField } from '../ui/NumberField.js';
import { useBench, useBenchState } from './context.js';

const two = (n: number) => String(n).padStart(2, '0');
export function clockText(time: number): string {
  const hundredths = Math.floor(time * 100 + 1e-6);
  return `${two(Math.floor(hundredths / 6000))}:${two(Math.floor(hundredths / 100) % 60)}.${two(hundredths % 100)}`;
}

/** Seconds between labels, so that they stand at least 48 pixels apart. */
function labelStep(span: number, width: number): number {
  const least = (48 * span) / Math.max(1, width);
  return [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120, 300, 600].find((s) => s >= least) ?? 1200;
}

/** How long the ruler is: the loop, or a while of what runs on. */
const RUNS_ON_SPAN = 8;

export function TimeBar() {
  const loop = useBenchState((s) => s.effect.loop);
  const span = loop ?? RUNS_ON_SPAN;
  return (
    <section aria-label="Time" className="flex h-11 items-center gap-1 border-t border-line bg-panel pr-3 pl-2">
      <Transport />
      <Reading span={span} />
      <Ruler span={span} loops={loop !== null} />
      <Looping />
    </section>
  );
}

function Transport() {
  const { clock } = useBench();
  const [playing, setPlaying] = useState(clock.playing);
  useEffect(() => clock.onState(() => setPlaying(clock.playing)), [clock]);
  return (
    <>
      <button className="plain h-7 w-7" aria-label="Back one frame" title="Back one frame" onClick={() => clock.step(-1)}>
        <StepBack size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain h-7 w-7 text-ink"
        aria-label={playing ? 'Pause' : 'Play'}
        title={`${playing ? 'Pause' : 'Play'}  Space`}
        onClick={() => (playing ? clock.pause() : clock.play())}
      >
        {playing ? <Pause size={16} strokeWidth={1.5} aria-hidden /> : <Play size={16} strokeWidth={1.5} aria-hidden />}
      </button>
      <button className="plain h-7 w-7" aria-label="On one frame" title="On one frame" onClick={() => clock.step(1)}>
        <StepForward size={16} strokeWidth={1.5} aria-hidden />
      </button>
    </>
  );
}

/** The moment, as a time and as a frame. */
function Reading({ span }: { span: number }) {
  const { clock } = useBench();
  const fps = useBenchState((s) => s.effect.fps);
  const text = useRef<HTMLSpanElement>(null);
  const frame = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (time: number) => {
      text.current!.textContent = clockText(time);
      frame.current!.textContent = `${Math.floor(time * fps + 1e-6)} of ${Math.round(span * fps)}`;
    };
    show(clock.time);
    return clock.onTick(show);
  }, [clock, span, fps]);
  return (
    <>
      <span ref={text} className="num ml-1 w-[68px] text-[13px]" data-testid="clock" />
      <span ref={frame} className="num mr-3 w-[64px] text-muted" />
    </>
  );
}

function Ruler({ span, loops }: { span: number; loops: boolean }) {
  const { clock } = useBench();
  const fps = useBenchState((s) => s.effect.fps);
  const [width, setWidth] = useState(400);
  const ruler = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width));
    watcher.observe(ruler.current!);
    return () => watcher.disconnect();
  }, []);
  const scrub = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    const box = ruler.current!.getBoundingClientRect();
    const share = Math.max(0, Math.min(1, (event.clientX - box.left) / box.width));
    clock.pause();
    clock.set(Math.min(share * span, loops ? span - 1 / fps : Infinity));
  };
  return (
    <div
      ref={ruler}
      className="relative h-10 grow touch-none"
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

/** Whether it loops, how long that is, and how fast it plays. */
function Looping() {
  const { clock, documents } = useBench();
  const loop = useBenchState((s) => s.effect.loop);
  const [speed, setSpeed] = useState(clock.speed);
  return (
    <span className="ml-3 flex items-center gap-2">
      <button
        className={`plain ${loop === null ? '' : 'text-ink'}`}
        aria-pressed={loop !== null}
        aria-label="Loop"
        title={loop === null ? 'It runs on: loop it' : 'It loops: let it run on'}
        onClick={() => documents.edit('Loop or run on', (draft) => setLoop(draft, { loop: loop === null ? 4 : null }))}
      >
        <Repeat size={15} strokeWidth={1.5} aria-hidden />
      </button>
      {loop !== null && (
        <NumberField
          label="Loop length"
          value={loop}
          unit="s"
          step={0.1}
          low={0.1}
          high={3600}
          width={60}
          onChange={(v) => documents.edit('Loop length', (draft) => setLoop(draft, { loop: v }), 'loop')}
          onDone={() => documents.endGesture()}
        />
      )}
      <NumberField
        label="Playback speed"
        value={speed}
        unit="x"
        step={0.05}
        low={0.05}
        high={8}
        width={48}
        onChange={(v) => {
          clock.speed = v;
          setSpeed(v);
        }}
        onDone={() => undefined}
      />
    </span>
  );
}
