/** The keys of a lane: chosen, several by a drag around them, moved on the axis, scaled about the other end with Alt. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { Cue, CueKey, Dial } from '../../../core/effect/schema.js';
import { byTime } from '../../../core/effect/cues.js';
import { deleteKeys, moveKeys, scaleKeys, takeLane, type KeyDrag } from '../../../session/cueing.js';
import { useBench, useBenchState } from '../../context.js';
import { timeOf, valueOf } from './axis.js';

const NONE: readonly number[] = [];

/** Which keys of a cue are chosen, of those that there are: undo may have taken some. */
export function useChosenKeys({ dial, keys }: Cue): readonly number[] {
  const chosen = useBenchState((s) => (s.lane?.dial === dial ? s.lane.keys : NONE));
  return chosen.every((k) => k < keys.length) ? chosen : chosen.filter((k) => k < keys.length);
}

interface Props {
  readonly dial: Dial;
  readonly cue: Cue;
  readonly span: number;
  readonly width: number;
  readonly label: string;
  readonly yOf: (key: CueKey) => number;
  /** What a pixel upwards is of the value, where keys are raised too. */
  readonly perPixelUp?: number;
}

interface Drag extends KeyDrag {
  readonly x: number;
  readonly y: number;
  /** The time that the run is scaled about; null where it is moved. */
  readonly about: number | null;
  readonly at: number;
  /** The key alone that is chosen if nothing is moved; null where more were being chosen. */
  readonly alone: number | null;
  moved: boolean;
}

/** What a press, a drag and a key of the keyboard do to keys. */
function useKeyHand({ dial, cue, span, width, perPixelUp = 0 }: Props) {
  const session = useBench();
  const chosen = useChosenKeys(cue);
  const drag = useRef<Drag | null>(null);
  const keys = byTime(cue.keys);
  const choose = (k: number, severally: boolean): readonly number[] => {
    const alone = chosen.includes(k) ? chosen : [k];
    const next = !severally ? alone : chosen.includes(k) ? chosen.filter((c) => c !== k) : [...chosen, k];
    takeLane(session, dial.id, next);
    return next;
  };
  const grab = (event: PointerEvent<Element>, k: number) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const severally = event.shiftKey || event.ctrlKey || event.metaKey;
    const run = choose(k, severally);
    const times = run.map((c) => keys[c]!.time);
    const at = keys[k]!.time;
    const far = at - Math.min(...times) > Math.max(...times) - at ? Math.min(...times) : Math.max(...times);
    drag.current = {
      ...{ from: session.store.getState().effect, dial: dial.id, keys: run, x: event.clientX, y: event.clientY, at },
      about: event.altKey && run.length > 1 ? far : null,
      ...{ alone: severally || event.altKey ? null : k, moved: false },
    };
  };
  const move = (event: PointerEvent) => {
    const held = drag.current;
    if (!held || held.keys.length === 0) return;
    const [right, up] = [event.clientX - held.x, held.y - event.clientY];
    const by = (right * span) / width;
    held.moved ||= Math.abs(right) > 2 || Math.abs(up) > 2;
    if (held.about !== null)
      scaleKeys(session, held, held.about, Math.max(0.01, (held.at + by - held.about) / (held.at - held.about)));
    else if (Math.abs(right) > 2 || (perPixelUp > 0 && Math.abs(up) > 2)) moveKeys(session, held, by, up * perPixelUp);
  };
  const drop = () => {
    const held = drag.current;
    drag.current = null;
    if (!held) return;
    session.documents.endGesture();
    if (!held.moved && held.alone !== null) takeLane(session, dial.id, [held.alone]);
  };
  const onKey = (event: KeyboardEvent, k: number) => {
    const run = chosen.includes(k) ? chosen : [k];
    const { effect } = session.store.getState();
    if (event.key === 'ArrowLeft' || event.key === 'ArrowRight')
      moveKeys(session, { from: effect, dial: dial.id, keys: run }, (event.key === 'ArrowLeft' ? -1 : 1) / effect.fps);
    else if (event.key === 'Delete' || event.key === 'Backspace') deleteKeys(session, dial.id, run);
    else if (event.key === 'Enter' || event.key === ' ') choose(k, event.shiftKey);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return { keys, chosen, grab, move, drop, onKey };
}

/** A drag over the lane chooses the keys within it; a press goes to the time that is pointed at. */
function useKeyBand({ dial, cue, span, width }: Props) {
  const session = useBench();
  const [band, setBand] = useState<readonly [number, number] | null>(null);
  const start = (e: PointerEvent<Element>) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    setBand([timeOf(e, span), timeOf(e, span)]);
  };
  const end = () => {
    if (!band) return;
    const [low, high] = [Math.min(...band), Math.max(...band)];
    setBand(null);
    if (((high - low) / span) * width < 3) {
      session.clock.pause();
      session.clock.set(low);
    } else
      takeLane(
        session,
        dial.id,
        byTime(cue.keys).flatMap((key, k) => (key.time >= low && key.time <= high ? [k] : [])),
      );
  };
  return { band, start, move: (e: PointerEvent<Element>) => band && setBand([band[0], timeOf(e, span)]), end };
}

export function Keys(props: Props) {
  const { span, width, label, yOf } = props;
  const { keys, chosen, grab, move, drop, onKey } = useKeyHand(props);
  const { band, ...around } = useKeyBand(props);
  const xOf = (time: number) => Math.max(0, Math.min(1, time / span)) * width;
  return (
    <div
      className="absolute inset-0 touch-none"
      role="group"
      aria-label={`Keys of ${label}`}
      onPointerDown={around.start}
      onPointerMove={around.move}
      onPointerUp={around.end}
    >
      {band && (
        <span
          className="absolute inset-y-1 border border-edge bg-ink/5"
          style={{ left: xOf(Math.min(...band)), width: xOf(Math.abs(band[1] - band[0])) }}
        />
      )}
      {keys.map((key, k) => (
        <button
          key={k}
          className="absolute flex h-5 w-5 -translate-x-1/2 -translate-y-1/2 cursor-ew-resize items-center justify-center rounded-full"
          style={{ left: xOf(key.time), top: yOf(key) }}
          aria-label={`Key ${k + 1} of ${keys.length} of ${label}: ${key.time.toFixed(2)} s, ${valueOf(key.value)}`}
          aria-pressed={chosen.includes(k)}
          title="Drag to move; Shift chooses several, Alt scales them; Delete"
          onPointerDown={(e) => grab(e, k)}
          onPointerMove={move}
          onPointerUp={drop}
          onPointerCancel={drop}
          onKeyDown={(e) => onKey(e, k)}
        >
          <span
            className={`h-[7px] w-[7px] rounded-full border-[1.5px] ${chosen.includes(k) ? 'border-wisp bg-ink outline-[1.5px] outline-wisp' : 'border-ink bg-base'}`}
          />
        </button>
      ))}
    </div>
  );
}
