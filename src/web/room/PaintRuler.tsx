/** Beside what is painted, the axis that a fill goes along: where it is 0 and where it is 1, to be dragged. */
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { propOf, type Vec3 } from '../../core/scene/edits.js';
import { alongAxis } from '../../core/scene/handles.js';
import { standingAt } from '../../core/scene/placing.js';
import type { PaintingState } from '../../session/paintingState.js';
import { useBench } from '../context.js';
import { usePainting } from './usePainting.js';

/** Parts between the ends, told apart by ticks. */
const PARTS = 8;
/** Nearer than this to the picture's left rim, in pixels, a label stands at the right of its end. */
const LABEL = 130;
/** Half a tick, in pixels. */
const TICK = 4;

type Seen = { readonly x: number; readonly y: number; readonly ahead: boolean };

/** A point of the side of the prop's box that the ruler stands at. @param side which of the four sides along the axis */
function pointOn({ extent, ramp: { axis } }: PaintingState, side: number, at: number): Vec3 {
  const local: Vec3 = [0, 0, 0];
  const [u, w] = [(axis + 1) % 3, (axis + 2) % 3];
  local[axis] = at;
  local[u] = extent[u]?.[side % 2 === 0 ? 0 : 1] ?? 0;
  local[w] = extent[w]?.[side < 2 ? 0 : 1] ?? 0;
  return local;
}

/** The side that is seen farthest to the left, or lowest where the axis lies. */
function sideOf(state: PaintingState, project: (local: Vec3) => Seen): number {
  const { from, to } = state.ramp;
  const [a, b] = [from, to].map((at) => project(pointOn(state, 0, at))) as [Seen, Seen];
  const upright = Math.abs(b.y - a.y) >= Math.abs(b.x - a.x);
  const far = (side: number) => {
    const { x, y } = project(pointOn(state, side, (from + to) / 2));
    return upright ? -x : y;
  };
  return [0, 1, 2, 3].reduce((best, side) => (far(side) > far(best) + 1e-6 ? side : best), 0);
}

export function PaintRuler() {
  const session = useBench();
  const { painting, frames, store } = session;
  const box = useRef<HTMLDivElement>(null);
  const side = useRef(0);
  const dragged = useRef<'from' | 'to' | null>(null);
  const ramp = usePainting((s) => s.ramp);
  const length = usePainting((s) => Math.max(1e-6, (s.extent[s.ramp.axis]?.[1] ?? 1) - (s.extent[s.ramp.axis]?.[0] ?? 0)));
  useEffect(() => {
    const show = () => {
      const state = painting.store.getState();
      const prop = store.getState().stage.props.find((p) => p.id === state.prop);
      const { view } = frames;
      if (!prop || !view || !box.current) return;
      const project = (local: Vec3) => view.pointing.project(standingAt(prop, local));
      // What is dragged stays on its side.
      if (dragged.current === null) side.current = sideOf(state, project);
      draw(box.current, (at) => project(pointOn(state, side.current, at)), state.ramp);
    };
    show();
    const stops = [frames.onDrawn(show), painting.store.subscribe(show)];
    return () => stops.forEach((stop) => stop());
  }, [painting, frames, store]);

  const drag = (event: PointerEvent<HTMLElement>) => {
    const state = painting.store.getState();
    const { view } = frames;
    if (!dragged.current || !view || state.prop === null) return;
    const prop = propOf(store.getState().stage, state.prop);
    const { left, top, width, height } = box.current!.getBoundingClientRect();
    const [foot, one] = [0, 1].map((at) => standingAt(prop, pointOn(state, side.current, at))) as [Vec3, Vec3];
    const metre = Math.hypot(...one.map((v, k) => v - foot[k]!));
    const axis = one.map((v, k) => (v - foot[k]!) / metre) as Vec3;
    const ray = view.pointing.ray((event.clientX - left) / width, (event.clientY - top) / height);
    const along = alongAxis(ray, foot, axis);
    if (along !== null) painting.setRamp({ [dragged.current]: Math.round((along / metre) * 1000) / 1000 });
  };
  const onKeyDown = (event: KeyboardEvent, end: 'from' | 'to') => {
    const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (way === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    painting.setRamp({ [end]: Math.round((ramp[end] + way * length * 0.01) * 1000) / 1000 });
  };
  const end = (which: 'from' | 'to') => (
    <div data-end={which} hidden className="group absolute top-0 left-0 w-0">
      <span className="stage-chip pointer-events-none absolute -top-[13px] right-[16px] gap-1.5 group-data-[beside=right]:right-auto group-data-[beside=right]:left-[16px]">
        <span className="num text-muted">{ramp[which].toFixed(2)} m</span>
        <span className="num">{which === 'from' ? '0.00' : '1.00'}</span>
      </span>
      <button
        aria-label={which === 'from' ? 'Where the fill is 0' : 'Where the fill is 1'}
        title="Drag it along the axis; Fill paints from one end to the other"
        className={`pointer-events-auto absolute -top-[7px] -left-[7px] h-[14px] w-[14px] touch-none rounded-full border-2 border-ink ${which === 'from' ? 'bg-base' : 'bg-ink'}`}
        onKeyDown={(e) => onKeyDown(e, which)}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          dragged.current = which;
        }}
        onPointerMove={drag}
        onPointerUp={() => (dragged.current = null)}
        onPointerCancel={() => (dragged.current = null)}
      />
    </div>
  );
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden">
      <svg className="absolute inset-0 h-full w-full" aria-hidden>
        <path stroke="#14121a" strokeOpacity={0.6} strokeWidth={4} fill="none" />
        <path stroke="#ece7f3" strokeWidth={1.5} fill="none" />
      </svg>
      {end('from')}
      {end('to')}
    </div>
  );
}

function draw(box: HTMLElement, seenAt: (at: number) => Seen, { from, to }: PaintingState['ramp']): void {
  const places = Array.from({ length: PARTS + 1 }, (_, k) => {
    const { x, y, ahead } = seenAt(from + ((to - from) * k) / PARTS);
    return { x: x * box.clientWidth, y: y * box.clientHeight, ahead };
  });
  const [first, last] = [places[0]!, places[PARTS]!];
  const shown = places.every((p) => p.ahead);
  const long = Math.hypot(last.x - first.x, last.y - first.y) || 1;
  const [nx, ny] = [((first.y - last.y) / long) * TICK, ((last.x - first.x) / long) * TICK];
  const line = `M${first.x} ${first.y}L${last.x} ${last.y}`;
  const ticks = places.slice(1, -1).map(({ x, y }) => `M${x - nx} ${y - ny}L${x + nx} ${y + ny}`);
  for (const path of box.querySelectorAll('path')) path.setAttribute('d', shown ? line + ticks.join('') : '');
  for (const [which, { x, y, ahead }] of [
    ['from', first],
    ['to', last],
  ] as const) {
    const mark = box.querySelector<HTMLElement>(`[data-end="${which}"]`)!;
    mark.hidden = !ahead;
    mark.dataset.beside = x < LABEL ? 'right' : 'left';
    mark.style.transform = `translate(${x}px, ${y}px)`;
  }
}
