/** A number: typed (arithmetic too), dragged, or stepped with the arrow keys. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { calculate } from '../../core/base/arithmetic.js';
import { showNumber } from './numbers.js';

interface Props {
  readonly label: string;
  readonly value: number;
  readonly unit?: string;
  /** A word behind the number that is no unit: an axis. */
  readonly mark?: string;
  /** What one arrow key adds; ten times with Shift, a tenth with Alt. */
  readonly step?: number;
  readonly low?: number | null;
  readonly high?: number | null;
  readonly width?: number;
  /** A chip of a row, not a field. */
  readonly look?: 'field' | 'chip';
  readonly onChange: (value: number) => void;
  /** The end of a drag, a run of steps, or typing. */
  readonly onDone: () => void;
  /** What Enter does when the number has been taken over; it stays in the field by itself. */
  readonly onEnter?: () => void;
}

const SHOWN_UNITS: Record<string, string> = { deg: '°', x: '×', rad: 'rad', turns: 'turns', stops: 'stops' };
export const shownUnit = (unit: string): string => SHOWN_UNITS[unit] ?? unit;

/** With Shift ten times as far, with Alt a tenth. */
const stepOf = (step: number, { shiftKey, altKey }: { shiftKey: boolean; altKey: boolean }): number =>
  step * (shiftKey ? 10 : altKey ? 0.1 : 1);

/** A press that moves sideways drags the number; one that does not goes into the field. */
function useDrag(value: number, step: number, set: (value: number) => void, onDone: () => void) {
  const drag = useRef<{ x: number; value: number; moved: boolean } | null>(null);
  const end = () => {
    const held = drag.current;
    drag.current = null;
    return held;
  };
  return {
    onPointerDown: (event: PointerEvent<HTMLInputElement>) => {
      if (document.activeElement === event.currentTarget) return;
      event.preventDefault();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { x: event.clientX, value, moved: false };
    },
    onPointerMove: (event: PointerEvent<HTMLInputElement>) => {
      const held = drag.current;
      if (!held) return;
      const pixels = event.clientX - held.x;
      if (!held.moved && Math.abs(pixels) < 3) return;
      held.moved = true;
      set(held.value + Math.round(pixels) * stepOf(step, event));
    },
    onPointerUp: (event: PointerEvent<HTMLInputElement>) => {
      const held = end();
      if (!held) return;
      if (held.moved) onDone();
      else {
        event.currentTarget.focus();
        event.currentTarget.select();
      }
    },
    // A drag that the browser takes away ends where it is; nothing follows the pointer any more.
    onPointerCancel: () => {
      if (end()?.moved) onDone();
    },
  };
}

export function NumberField(props: Props) {
  const { label, value, unit = '', mark, step = 0.01, low, high, width = 76, look = 'field', onChange, onDone, onEnter } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const hold = (v: number) => Math.max(low ?? -1e9, Math.min(high ?? 1e9, v));
  const set = (v: number) => {
    // Steps leave no trail of binary fractions.
    const held = hold(Number(v.toPrecision(12)));
    if (held !== value) onChange(held);
  };
  const parsed = typed === null ? null : calculate(typed);
  const wrong = typed !== null && parsed === null;
  const commit = () => {
    if (parsed !== null) set(parsed);
    setTyped(null);
    onDone();
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const size = stepOf(step, event);
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault();
      event.stopPropagation();
      setTyped(null);
      set((parsed ?? value) + (event.key === 'ArrowUp' ? size : -size));
    } else if (event.key === 'Enter') {
      event.preventDefault();
      event.stopPropagation();
      if (!wrong) {
        commit();
        if (onEnter) return onEnter();
        // Once the committed number is shown; by then the focus may have gone elsewhere.
        requestAnimationFrame(() => {
          if (document.activeElement === input.current) input.current?.select();
        });
      }
    } else if (event.key === 'Escape' && typed !== null) {
      event.stopPropagation();
      setTyped(null);
    }
  };
  const dragging = useDrag(value, step, set, onDone);
  return (
    <label
      className={`${look === 'chip' ? 'chip chip-number px-0!' : 'field'} relative flex shrink-0 items-center has-[:focus-visible]:outline-2 has-[:focus-visible]:outline-wisp`}
      style={{ width }}
    >
      <input
        ref={input}
        aria-label={label}
        aria-invalid={wrong}
        title={wrong ? 'This is not a number or arithmetic.' : undefined}
        className={`h-full w-full min-w-0 cursor-ew-resize bg-transparent outline-none focus:cursor-text ${look === 'chip' ? 'pl-[5px]' : 'num pl-2'} ${wrong ? 'text-fault' : ''}`}
        inputMode="decimal"
        spellCheck={false}
        autoComplete="off"
        value={typed ?? showNumber(value)}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={() => {
          if (typed !== null) commit();
          else onDone();
        }}
        onKeyDown={onKeyDown}
        {...dragging}
      />
      {(unit || mark) && (
        <span
          className={`pointer-events-none shrink-0 leading-4 text-muted ${look === 'chip' ? 'pr-[5px]' : 'pr-2 pl-1 text-[11px]'}`}
        >
          {mark ?? shownUnit(unit)}
        </span>
      )}
    </label>
  );
}
