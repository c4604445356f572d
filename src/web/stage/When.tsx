/** The time on the stage, where there is no bar for it. */
import { useEffect, useRef, useState } from 'react';
import { useBench } from '../context.js';
import { clockText } from '../bench/time/TimeBar.js';

/** Pressed, it plays or pauses. */
export function When() {
  const { clock } = useBench();
  const [playing, setPlaying] = useState(clock.playing);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => clock.onState(() => setPlaying(clock.playing)), [clock]);
  useEffect(() => {
    const show = (time: number) => (text.current!.textContent = clockText(time));
    show(clock.time);
    return clock.onTick(show);
  }, [clock]);
  return (
    <button
      className="stage-chip absolute bottom-3 left-3"
      onClick={() => (clock.playing ? clock.pause() : clock.play())}
      title={`${playing ? 'Pause' : 'Play'}  Space`}
    >
      <span ref={text} className="num" />
      <span className="text-muted">{playing ? 'playing' : 'paused'}</span>
    </button>
  );
}
