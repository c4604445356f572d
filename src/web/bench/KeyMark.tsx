/** The mark beside a number that can be keyed: free, held by a cue, or with a key at the time that is shown. One press sets or takes one. */
import { useEffect, useState } from 'react';
import { cueAt, keyAt } from '../../core/effect/cues.js';
import type { Cue, Value } from '../../core/effect/schema.js';
import { keysOf, onFrame, toggleKey } from '../../session/cueing.js';
import { dialAt } from '../../session/showing.js';
import { useBench, useBenchState } from '../context.js';

/** The cue that holds an input; undefined where none does. */
export function useCue(strand: string, input: string): Cue | undefined {
  return useBenchState((s) => {
    const dial = dialAt(s.effect, strand, input);
    return dial && s.effect.cues.find((c) => c.dial === dial.id);
  });
}

/** In as many digits as a field has room for: what is eased has no end of them. */
const brief = (value: Value): Value =>
  typeof value === 'number'
    ? Number(value.toPrecision(3))
    : Array.isArray(value)
      ? value.map((v) => Number(v.toPrecision(3)))
      : value;

/** What a cue says now, told anew when that changes. */
export function useCueValue(cue: Cue | undefined): Value | undefined {
  const { clock } = useBench();
  const [value, setValue] = useState(() => cue && brief(cueAt(cue, clock.time)));
  useEffect(() => {
    if (!cue) return setValue(undefined);
    const show = (time: number) => {
      const now = brief(cueAt(cue, time));
      setValue((old) => (JSON.stringify(old) === JSON.stringify(now) ? old : now));
    };
    show(clock.time);
    return clock.onTick(show);
  }, [clock, cue]);
  return cue && value;
}

export function KeyMark({ strand, input, label }: { strand: string; input: string; label: string }) {
  const session = useBench();
  const cue = useCue(strand, input);
  const [here, setHere] = useState(false);
  useEffect(() => {
    if (!cue) return setHere(false);
    const keys = keysOf(session.store.getState().effect, cue.dial);
    const show = (time: number) => setHere(keyAt(keys, onFrame(session, time)) >= 0);
    show(session.clock.time);
    return session.clock.onTick(show);
  }, [session, cue]);
  const state = here ? 'here' : cue ? 'held' : 'free';
  return (
    <button
      className="group/key relative flex h-4 w-4 shrink-0 items-center justify-center rounded-sm before:absolute before:-inset-1"
      data-key={state}
      aria-label={here ? `Take the key of ${label} away` : `Key ${label} here`}
      title={here ? 'A key stands here. Press to take it away' : cue ? 'A cue holds it. Press for a key here' : 'Set a key here'}
      onClick={() => toggleKey(session, strand, input)}
    >
      <svg width={16} height={16} aria-hidden>
        {cue && <line x1={0} x2={16} y1={8} y2={8} stroke="var(--color-muted)" />}
        <circle
          cx={8}
          cy={8}
          r={3.25}
          strokeWidth={1.5}
          stroke={cue ? 'var(--color-ink)' : 'var(--color-edge)'}
          fill={here ? 'var(--color-ink)' : 'var(--color-panel)'}
          className={cue ? '' : 'group-hover/key:stroke-ink'}
        />
      </svg>
    </button>
  );
}
