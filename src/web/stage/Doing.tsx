/** What the next press on the stage does: takes a prop in hand, sets a pin, fires a trigger; and the chips that say so. */
import { Maximize, Move, Pin, Undo2, Zap } from 'lucide-react';
import { useRef, type PointerEvent, type RefObject } from 'react';
import { propOf } from '../../core/scene/edits.js';
import { MAX_PINS, freshPinId, setPin } from '../../core/scene/pins.js';
import { propIn } from '../../core/scene/pieces.js';
import { whoWears } from '../../core/scene/wearing.js';
import type { Hit } from '../../render/pointing.js';
import type { Bench } from '../../session/bench.js';
import { propInHand } from '../../session/state.js';
import { fireNow, triggerInHand } from '../../session/triggering.js';
import { useBench, useBenchState } from '../context.js';

/** A press that moved farther than this looked around instead of pointing. */
const STILL_PX = 4;

export function frameInHand({ frames, store }: Bench): void {
  const held = propInHand(store.getState());
  if (held) frames.frameProp(held.id);
}

/** Fires the trigger in hand where a prop that wears the effect was hit. @returns whether that was asked for */
function strike(session: Bench, { prop, position }: Hit): boolean {
  const state = session.store.getState();
  const trigger = triggerInHand(state);
  if (!state.striking || !trigger) return false;
  const wears = whoWears(state.stage, state.effect).some((w) => w.effect === state.effect.id && propIn(w.prop) === prop);
  if (wears) fireNow(session, trigger.id, position);
  else
    session.store.setState({ notice: `${propOf(state.stage, prop).name} does not wear this effect, so nothing is fired there.` });
  return true;
}

/** A press on a prop takes it in hand, sets a pin there, or fires a trigger. */
export function usePointing(
  holder: RefObject<HTMLDivElement | null>,
  pinning: boolean,
  onPinned: () => void,
  onHand: () => void = () => undefined,
) {
  const session = useBench();
  const pressed = useRef<{ x: number; y: number } | null>(null);
  const point = (event: PointerEvent<HTMLElement>) => {
    const from = pressed.current;
    pressed.current = null;
    if (!from || Math.hypot(event.clientX - from.x, event.clientY - from.y) > STILL_PX) return;
    const box = holder.current!.getBoundingClientRect();
    const at = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] as const;
    const hit = session.frames.view?.pointing.pick(...at);
    if (!hit) return;
    if (pinning) pin(hit);
    else if (!strike(session, hit)) {
      session.choosing.hand(hit.prop, session.frames.view?.pointing.pieceOf(hit));
      onHand();
    }
  };
  const pin = (hit: Hit) => {
    const { stage } = session.store.getState();
    const id = freshPinId(stage);
    onPinned();
    if (id === null)
      session.store.setState({ notice: `There are ${MAX_PINS} pins, as many as there may be. Take one away first.` });
    else session.documents.editStage(`Pin ${id}`, (d) => setPin(d, { pin: { id, ...hit } }));
  };
  return {
    onPointerDown: (e: PointerEvent<HTMLElement>) => {
      if (e.button === 0 && e.target instanceof HTMLCanvasElement) pressed.current = { x: e.clientX, y: e.clientY };
    },
    onPointerUp: point,
  };
}

/** Whether presses on props fire the trigger in hand; offered where there is one. */
function Strike() {
  const session = useBench();
  const trigger = useBenchState((s) => triggerInHand(s)?.name ?? null);
  const striking = useBenchState((s) => s.striking);
  const following = useBenchState((s) => s.following);
  if (trigger === null) return null;
  return (
    <button
      className={`stage-chip min-w-0 ${striking ? 'border-edge' : ''}`}
      aria-pressed={striking}
      disabled={following}
      onClick={() => session.store.setState({ striking: !striking })}
      title={`Then press on a prop: ${trigger} is fired there, again and again  Esc`}
    >
      <Zap size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
      <span className="truncate">{striking ? `Press where ${trigger} is fired` : trigger}</span>
    </button>
  );
}

interface DoingProps {
  readonly pinning: boolean;
  readonly onPinning: (on: boolean) => void;
  readonly moving: boolean;
  readonly onMoving: (on: boolean) => void;
}

/** What the next press on the stage does, and the view. */
export function Doing({ pinning, onPinning, moving, onMoving }: DoingProps) {
  const session = useBench();
  const viewpoint = useBenchState((s) => s.viewpoint);
  const seenFrom = useBenchState((s) => s.stage.viewpoints.find((v) => v.id === s.viewpoint)?.name ?? '');
  const following = useBenchState((s) => s.following);
  const raw = useBenchState((s) => s.raw);
  return (
    <div className="absolute bottom-3 left-3 flex gap-2 small:right-1.5 small:bottom-1.5 small:left-1.5 small:flex-wrap small:gap-1">
      <button
        className={`stage-chip ${pinning ? 'border-edge' : ''}`}
        aria-pressed={pinning}
        disabled={following}
        onClick={() => onPinning(!pinning)}
        title="Then point at a prop: every strand's number there, now and over the loop"
      >
        <Pin size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        {pinning ? 'Point at a prop' : 'Pin'}
      </button>
      <Strike />
      <button
        className={`stage-chip ${moving ? 'border-edge' : ''}`}
        aria-pressed={moving}
        disabled={following}
        onClick={() => onMoving(!moving)}
        title="Shows handles: of the prop in hand along x, y and z, and what moves the others and the key light"
      >
        <Move size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        Handles
      </button>
      <button
        className="stage-chip"
        onClick={() => frameInHand(session)}
        title="Shows all of the prop in hand; from then on one goes round it  F"
      >
        <Maximize size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        Frame
      </button>
      <button
        className="stage-chip"
        onClick={() => session.frames.lookFrom(viewpoint ?? '')}
        aria-label={`Back to the viewpoint ${seenFrom}`}
        title={`Back to ${seenFrom}  V`}
      >
        <Undo2 size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
      </button>
      <button
        className="stage-chip"
        aria-pressed={raw}
        onClick={() => session.frames.setRaw(!raw)}
        title="Without bloom and tone curve  '"
      >
        {raw ? 'Without optics' : 'With optics'}
      </button>
    </div>
  );
}
