/**
 * Time: play, pause, step, scrub, the loop's length; and a lane for each cue under the ruler, on the same axis. The playhead
 * is moved by the clock itself, not by React.
 */
import { Pause, Play, Repeat, StepBack, StepForward } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { setLoop } from '../../../core/effect/edits.js';
import { setRecord } from '../../../session/cueing.js';
import { NumberField } from '../../ui/NumberField.js';
import { Toggle } from '../../ui/Toggle.js';
import { useBench, useBenchState } from '../../context.js';
import { COLUMNS, useWidth } from './axis.js';
import { Lanes } from './Lanes.js';
import { Ruler } from './Ruler.js';

const two = (n: number) => String(n).padStart(2, '0');
export function clockText(time: number): string {
  const hundredths = Math.floor(time * 100 + 1e-6);
  return `${two(Math.floor(hundredths / 6000))}:${two(Math.floor(hundredths / 100) % 60)}.${two(hundredths % 100)}`;
}

/** How long the ruler is: the loop, or a while of what runs on. */
const RUNS_ON_SPAN = 8;

export function TimeBar() {
  const loop = useBenchState((s) => s.effect.loop);
  const latest = useBenchState(({ effect }) => {
    const keys = effect.cues.flatMap((c) => c.keys.map((k) => k.time));
    return Math.max(0, ...keys, ...effect.triggers.flatMap((t) => t.at.map((at) => at + t.duration)));
  });
  const span = loop ?? Math.max(RUNS_ON_SPAN, Math.ceil(latest));
  const [box, width] = useWidth();
  return (
    <section ref={box} aria-label="Time" className="relative border-t border-line bg-panel small:min-w-[600px]">
      <div className={`${COLUMNS} h-[43px]`}>
        <span className="flex items-center gap-0.5 pl-2">
          <Transport />
          <Reading span={span} />
          <Record />
        </span>
        <Ruler span={span} loops={loop !== null} width={width} />
        <Looping />
      </div>
      <Lanes span={span} width={width} />
    </section>
  );
}

/** Whether a dial that a cue holds is keyed where it is turned, and a firing kept; offered where there is a cue or a trigger. */
function Record() {
  const session = useBench();
  const record = useBenchState((s) => s.record);
  const cued = useBenchState((s) => s.effect.cues.length + s.effect.triggers.length > 0);
  if (!cued) return null;
  return (
    <label
      className="ml-auto flex items-center gap-1.5 pr-2 text-[12px] text-muted"
      title="Turning a dial that a cue holds sets a key here; what is fired is kept"
    >
      Record
      <Toggle label="Record" on={record} onChange={(on) => setRecord(session, on)} />
    </label>
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
      <span className="ml-1 flex w-[84px] shrink-0 flex-col">
        <span ref={text} className="num text-[13px] leading-4" data-testid="clock" />
        <span ref={frame} className="num text-[10.5px] leading-3 text-muted" />
      </span>
    </>
  );
}

/** Whether it loops, how long that is, and how fast it plays. */
function Looping() {
  const { clock, documents } = useBench();
  const loop = useBenchState((s) => s.effect.loop);
  const [speed, setSpeed] = useState(clock.speed);
  return (
    <span className="flex items-center justify-end gap-1.5 pr-3">
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
          width={58}
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
        width={46}
        onChange={(v) => {
          clock.speed = v;
          setSpeed(v);
        }}
        onDone={() => undefined}
      />
    </span>
  );
}
