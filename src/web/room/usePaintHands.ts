/** Pointer and keys while a prop is painted. What meets the prop paints; what does not turns the picture, as elsewhere. */
import { useEffect, useRef, type PointerEvent, type RefObject } from 'react';
import { STROKES } from '../../core/paint/stroke.js';
import type { Painting } from '../../session/painting.js';
import { invert } from '../../session/paintFills.js';
import { lettersAllowed } from '../bench/sheet/letters.js';
import { useBench } from '../context.js';
import { typing } from '../ui/keys.js';

/** What a press of a bracket makes of the radius. */
const WIDER = 1.15;
const RIGHT = 2;

/** A pen tells how hard it is pressed; a mouse is pressed wholly. */
const pressureOf = ({ pointerType, pressure }: PointerEvent): number => (pointerType === 'pen' ? pressure : 1);

export function usePaintHands(holder: RefObject<HTMLDivElement | null>) {
  const session = useBench();
  const { painting } = session;
  const held = useRef<number | null>(null);
  const at = (event: PointerEvent): [number, number] => {
    const box = holder.current!.getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  };
  usePaintKeys(painting);
  return {
    onPointerDownCapture: (event: PointerEvent<HTMLElement>) => {
      if (!(event.target instanceof HTMLCanvasElement) || (event.button !== 0 && event.button !== RIGHT)) return;
      const kind = event.button === RIGHT ? 'take' : undefined;
      if (event.shiftKey) return;
      if (!painting.press(...at(event), pressureOf(event), kind)) return painting.missed();
      // The picture is not turned with it.
      event.stopPropagation();
      event.target.focus();
      held.current = event.pointerId;
      holder.current!.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      if (held.current === event.pointerId) painting.drag(...at(event), pressureOf(event));
      else if (held.current === null && event.buttons === 0) painting.hover(...at(event));
    },
    onPointerUp: (event: PointerEvent<HTMLElement>) => {
      if (held.current !== event.pointerId) return;
      held.current = null;
      painting.release();
    },
    onPointerCancel: () => {
      held.current = null;
      painting.release();
    },
    onPointerLeave: () => held.current === null && painting.leave(),
    onContextMenu: (event: { preventDefault: () => void }) => event.preventDefault(),
  };
}

function usePaintKeys(painting: Painting): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { prop, brush } = painting.store.getState();
      if (prop === null || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || !lettersAllowed()) return;
      const kind = STROKES[Number(event.key) - 1];
      if (kind) painting.setBrush({ kind });
      else if (event.key === '[') painting.setBrush({ radius: brush.radius / WIDER });
      else if (event.key === ']') painting.setBrush({ radius: brush.radius * WIDER });
      else if (event.key.toLowerCase() === 'i') invert(painting);
      else if (event.key === 'Escape') painting.end();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [painting]);
}
