/** Peeking at a value: held, or locked by a short press; a press on what is locked lets it go. */
import { Eye, Lock } from 'lucide-react';
import type { ReactNode } from 'react';
import type { PeekName } from '../../core/analysis/peek.js';
import type { Bench } from '../../session/bench.js';
import { useBench, useBenchState } from '../context.js';

/** A press that is shorter locks what it peeks at. */
const HOLD_MS = 300;

/**
 * The beginning of a press.
 * @param began when, by the event's own clock: a page that is busy drawing hears of it late
 * @returns what its end does, told when that was; null when the press was broken off, which locks nothing
 */
export function pressPeek(session: Bench, of: PeekName, began: number): (ended: number | null) => void {
  const { peek } = session.store.getState();
  if (peek?.of === of && peek.locked) {
    session.frames.endPeek();
    return () => undefined;
  }
  session.frames.peekAt(of, false);
  return (ended) => {
    if (session.store.getState().peek?.of !== of) return;
    if (ended !== null && ended - began < HOLD_MS) session.frames.peekAt(of, true);
    else session.frames.endPeek();
  };
}

interface PeekButtonProps {
  readonly of: PeekName;
  readonly name: string;
  readonly className: string;
  /** Where it stands, in pixels, where its class does not say so. */
  readonly left?: number;
  readonly tabIndex?: number;
  /** What is pressed; an eye, or a lock while it is locked, where nothing is given. */
  readonly children?: ReactNode;
}

export function PeekButton({ of, name, className, left, tabIndex, children }: PeekButtonProps) {
  const session = useBench();
  const locked = useBenchState((s) => s.peek?.of === of && s.peek.locked);
  const release = (event: Event) => {
    window.removeEventListener('pointerup', release);
    window.removeEventListener('pointercancel', release);
    window.removeEventListener('blur', release);
    end?.(event.type === 'pointerup' ? event.timeStamp : null);
  };
  let end: ((ended: number | null) => void) | null = null;
  return (
    <button
      className={className}
      {...(left === undefined ? {} : { style: { left } })}
      tabIndex={tabIndex}
      aria-label={`Peek at ${name}`}
      aria-pressed={locked}
      title={`Its raw value on the surface: hold, or press shortly to lock  P`}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.stopPropagation();
        end = pressPeek(session, of, e.timeStamp);
        window.addEventListener('pointerup', release);
        window.addEventListener('pointercancel', release);
        window.addEventListener('blur', release);
      }}
      onClick={(e) => {
        e.stopPropagation();
        // By keyboard there is no pointer to hold.
        if (e.detail === 0) pressPeek(session, of, e.timeStamp)(e.timeStamp);
      }}
    >
      {children ?? (locked ? <Lock size={14} strokeWidth={1.5} aria-hidden /> : <Eye size={14} strokeWidth={1.5} aria-hidden />)}
    </button>
  );
}
