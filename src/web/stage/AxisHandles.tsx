/**
 * Handles of the prop in hand: arrows along x, y and z, rings about them, or ends that scale, drawn at one size whatever the
 * distance. Each is a button: arrow keys do what a drag does.
 */
import { RadioGroup } from 'radix-ui';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type RefObject } from 'react';
import type { Vec3 } from '../../core/scene/edits.js';
import { across, alongAxis, angleAbout, further, onPlane, turnedAbout, type Ray } from '../../core/scene/handles.js';
import { degreesOf, someScale, turnedBy } from '../../core/scene/placing.js';
import type { Prop } from '../../core/scene/stage.js';
import { placeAt, scaleTo, turnTo } from '../../session/standing.js';
import { propInHand } from '../../session/state.js';
import { showNumber } from '../ui/numbers.js';
import { useBench, useBenchState } from '../context.js';
import { held, keptStep } from './steps.js';

export type HandleMode = 'place' | 'turn' | 'scale';

const AXES: readonly { readonly name: 'x' | 'y' | 'z'; readonly way: Vec3 }[] = [
  { name: 'x', way: [1, 0, 0] },
  { name: 'y', way: [0, 1, 0] },
  { name: 'z', way: [0, 0, 1] },
];
/** Pixels of an arrow, of a ring's radius; where the floor's square lies. */
const ARM = 92;
const SQUARE = [26, 46] as const;
/** Points that a ring is drawn through. */
const RING = 48;
/** What a press of an arrow key is: metres, degrees, a share. */
const NUDGE = { place: 0.05, turn: 5, scale: 0.05 };

/** What is being dragged: the prop as it was, and where the pointer's ray met the handle first. */
interface Grip {
  readonly prop: Prop;
  readonly axis: number | 'floor';
  readonly from: number | Vec3;
}

/** The axes of the stage; scales go along the prop's own. */
const wayOf = (mode: HandleMode, prop: Prop, axis: number): Vec3 =>
  mode === 'scale' ? turnedBy(prop.turn, AXES[axis]!.way) : AXES[axis]!.way;

/** Where a ray has a handle. */
function gripped(mode: HandleMode, { prop, axis }: Pick<Grip, 'prop' | 'axis'>, ray: Ray): number | Vec3 | null {
  if (axis === 'floor') return onPlane(ray, prop.place, [0, 1, 0]);
  const way = wayOf(mode, prop, axis);
  return mode === 'turn' ? angleAbout(ray, prop.place, way) : alongAxis(ray, prop.place, way);
}

/** Does to the prop what so much of a drag, or of a key, is. @param by metres, radians, or a factor */
function useDoing(mode: HandleMode) {
  const session = useBench();
  return (prop: Prop, axis: number, by: number) => {
    const step = keptStep();
    if (mode === 'place') placeAt(session, prop.id, prop.place.map((v, k) => (k === axis ? held(v + by, step) : v)) as Vec3);
    else if (mode === 'turn')
      turnTo(
        session,
        prop.id,
        degreesOf(turnedAbout(AXES[axis]!.way, by, prop.turn)).map((d) => Math.round(d * 10) / 10) as Vec3,
      );
    else
      scaleTo(session, prop.id, prop.scale.map((v, k) => (k === axis ? someScale(Math.round(v * by * 1000) / 1000) : v)) as Vec3);
  };
}

/** Dragging and pressing: what takes hold of which axis. */
function useGrip(mode: HandleMode, prop: Prop | null, box: RefObject<HTMLDivElement | null>) {
  const session = useBench();
  const act = useDoing(mode);
  const grip = useRef<Grip | null>(null);
  const [holding, setHolding] = useState<Grip['axis'] | null>(null);
  const rayAt = (e: PointerEvent) => {
    const at = box.current!.getBoundingClientRect();
    return session.frames.view!.pointing.ray((e.clientX - at.left) / at.width, (e.clientY - at.top) / at.height);
  };
  const begin = (e: PointerEvent<HTMLElement>, axis: Grip['axis']) => {
    if (e.button !== 0 || !session.frames.view || !prop) return;
    const from = gripped(mode, { prop, axis }, rayAt(e));
    if (from === null) return;
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    grip.current = { prop, axis, from };
    setHolding(axis);
  };
  const drag = (e: PointerEvent<HTMLElement>) => {
    const { current } = grip;
    if (!current || !session.frames.view) return;
    const now = gripped(mode, current, rayAt(e));
    if (now === null) return;
    const { axis, from } = current;
    if (axis === 'floor') {
      const step = keptStep();
      const moved = (now as Vec3).map((v, k) => held(current.prop.place[k]! + v - (from as Vec3)[k]!, step)) as Vec3;
      placeAt(session, current.prop.id, [moved[0], current.prop.place[1], moved[2]]);
    } else if (mode === 'scale') act(current.prop, axis, Math.max(0.01, (now as number) / (from as number)));
    else act(current.prop, axis, (now as number) - (from as number));
  };
  const end = () => {
    grip.current = null;
    setHolding(null);
    session.documents.endGesture();
  };
  const onKeyDown = (e: KeyboardEvent, axis: number) => {
    const way = e.key === 'ArrowRight' || e.key === 'ArrowUp' ? 1 : e.key === 'ArrowLeft' || e.key === 'ArrowDown' ? -1 : 0;
    if (way === 0 || !prop) return;
    e.preventDefault();
    e.stopPropagation();
    const nudge = NUDGE[mode] * way;
    act(prop, axis, mode === 'turn' ? (nudge * Math.PI) / 180 : mode === 'scale' ? 1 + nudge : nudge);
  };
  const handlers = (axis: Grip['axis']) => ({
    onPointerDown: (e: PointerEvent<HTMLElement>) => begin(e, axis),
    onPointerMove: drag,
    onPointerUp: end,
    onPointerCancel: end,
    onKeyDown: (e: KeyboardEvent) => onKeyDown(e, axis === 'floor' ? 0 : axis),
    onKeyUp: () => session.documents.endGesture(),
  });
  return { holding, handlers };
}

export function AxisHandles() {
  const [mode, setMode] = useState<HandleMode>('place');
  const prop = useBenchState(propInHand);
  const box = useRef<HTMLDivElement>(null);
  const lines = useRef<SVGSVGElement>(null);
  const shown = prop && prop.visible && !prop.locked ? prop : null;
  const { holding, handlers } = useGrip(mode, shown, box);
  useHandlesDrawn(mode, shown, box, lines);
  if (!shown) return null;
  return (
    <>
      <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden" data-handles={mode}>
        <svg ref={lines} className="absolute inset-0 h-full w-full" aria-hidden fill="none">
          {AXES.map(({ name }, k) => (
            <g key={name} data-axis={name}>
              <path className="stroke-base" strokeWidth={4.5} strokeOpacity={0.8} />
              <path className={holding === k ? 'stroke-wisp' : 'stroke-ink'} strokeWidth={1.75} />
            </g>
          ))}
          {mode === 'place' && (
            <path data-floor className={`fill-ink/10 ${holding === 'floor' ? 'stroke-wisp' : 'stroke-ink'}`} strokeWidth={1.25} />
          )}
          <circle data-origin r={4} className="fill-ink stroke-base" strokeWidth={1.5} />
        </svg>
        {mode === 'place' && (
          <button
            data-grip="floor"
            aria-label={`Move ${shown.name} over the ground`}
            title="Drag it over the ground"
            className={GRIP}
            {...handlers('floor')}
          />
        )}
        {AXES.map(({ name }, k) => (
          <button
            key={name}
            data-grip={name}
            aria-label={`${VERB[mode]} ${shown.name} ${mode === 'turn' ? 'about' : 'along'} ${name}`}
            title={`Drag, or press the arrow keys: ${VERB[mode].toLowerCase()} ${mode === 'turn' ? 'about' : 'along'} ${name}`}
            className={`${GRIP} flex items-center justify-center rounded-full`}
            {...handlers(k)}
          >
            <span
              className={`flex h-4 w-4 items-center justify-center border bg-base text-[11px] leading-none font-medium ${
                mode === 'scale' ? 'rounded-[3px]' : 'rounded-full'
              } ${holding === k ? 'border-wisp text-wisp' : 'border-ink text-ink'}`}
            >
              {name}
            </span>
            {holding === k && <Held mode={mode} prop={shown} axis={k} />}
          </button>
        ))}
      </div>
      <Modes mode={mode} onMode={setMode} />
    </>
  );
}

const GRIP = 'pointer-events-auto absolute top-0 left-0 -mt-3 -ml-3 h-6 w-6 touch-none';
const VERB: Readonly<Record<HandleMode, string>> = { place: 'Move', turn: 'Turn', scale: 'Scale' };

/** The number that is being dragged. */
function Held({ mode, prop, axis }: { mode: HandleMode; prop: Prop; axis: number }) {
  const value = mode === 'place' ? prop.place[axis]! : mode === 'turn' ? degreesOf(prop.turn)[axis]! : prop.scale[axis]!;
  return (
    <span className="stage-chip absolute top-[-1px] left-7 whitespace-nowrap">
      <span className="text-muted">{AXES[axis]!.name}</span>
      <span className="num">{showNumber(value)}</span>
      <span className="text-[11px] text-muted">{mode === 'place' ? 'm' : mode === 'turn' ? '°' : '×'}</span>
    </span>
  );
}

function Modes({ mode, onMode }: { mode: HandleMode; onMode: (mode: HandleMode) => void }) {
  return (
    <RadioGroup.Root
      aria-label="What the handles do"
      className="absolute bottom-12 left-3 flex gap-0.5 rounded-md border border-line bg-base/80 p-0.5 text-[12px]"
      orientation="horizontal"
      value={mode}
      onValueChange={(value) => onMode(value as HandleMode)}
    >
      {(['place', 'turn', 'scale'] as const).map((value) => (
        <RadioGroup.Item key={value} value={value} className="segment">
          {value === 'place' ? 'Place' : value === 'turn' ? 'Turn' : 'Scale'}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

/** Puts lines and grips where they are seen, after each frame. */
function useHandlesDrawn(
  mode: HandleMode,
  prop: Prop | null,
  box: RefObject<HTMLDivElement | null>,
  lines: RefObject<SVGSVGElement | null>,
): void {
  const session = useBench();
  useEffect(() => {
    const show = () => {
      const { view } = session.frames;
      if (!view || !box.current || !lines.current || !prop) return;
      const { clientWidth: width, clientHeight: height } = box.current;
      const now = session.store.getState().stage.props.find((p) => p.id === prop.id) ?? prop;
      const metres = view.pointing.metresPerPixel(now.place, height);
      const px = (point: Vec3): [number, number] => {
        const { x, y } = view.pointing.project(point);
        return [x * width, y * height];
      };
      const path = (points: readonly Vec3[], closed = false) =>
        `M${points
          .map((p) =>
            px(p)
              .map((v) => v.toFixed(1))
              .join(' '),
          )
          .join('L')}${closed ? 'Z' : ''}`;
      AXES.forEach(({ name }, k) => {
        const way = wayOf(mode, now, k);
        const end = further(now.place, way, ARM * metres);
        const [u, v] = across(way);
        const ring = (n: number) => {
          const a = (n / RING) * 2 * Math.PI;
          return further(further(now.place, u, ARM * metres * Math.cos(a)), v, ARM * metres * Math.sin(a));
        };
        const d =
          mode === 'turn'
            ? path(
                Array.from({ length: RING }, (_, n) => ring(n)),
                true,
              )
            : path([now.place, end]);
        for (const line of lines.current!.querySelectorAll(`[data-axis=${name}] path`)) line.setAttribute('d', d);
        // On a ring the grip stands an eighth on, where rings do not cross.
        const [x, y] = px(mode === 'turn' ? ring(RING / 8) : end);
        const grip = box.current!.querySelector<HTMLElement>(`[data-grip=${name}]`);
        if (grip) grip.style.transform = `translate(${x}px, ${y}px)`;
      });
      const [ox, oy] = px(now.place);
      const origin = lines.current.querySelector('[data-origin]');
      origin?.setAttribute('cx', String(ox));
      origin?.setAttribute('cy', String(oy));
      const corner = (a: number, b: number): Vec3 => [now.place[0] + a * metres, now.place[1], now.place[2] + b * metres] as Vec3;
      const [near, far] = SQUARE;
      lines.current
        .querySelector('[data-floor]')
        ?.setAttribute('d', path([corner(near, near), corner(far, near), corner(far, far), corner(near, far)], true));
      const floor = box.current.querySelector<HTMLElement>('[data-grip=floor]');
      const [fx, fy] = px(corner((near + far) / 2, (near + far) / 2));
      if (floor) floor.style.transform = `translate(${fx}px, ${fy}px)`;
    };
    show();
    return session.frames.onDrawn(show);
  }, [session, mode, prop, box, lines]);
}
