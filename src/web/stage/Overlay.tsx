/** What is drawn over the picture: pins with their numbers, and handles that move props and the key light. */
import { BoxSelect, Lightbulb, Move } from 'lucide-react';
import { useEffect, useRef, type KeyboardEvent, type PointerEvent, type ReactNode, type RefObject } from 'react';
import type { Stage } from '../../core/scene/stage.js';
import { deletePin, pinsOf } from '../../core/scene/pins.js';
import { changeZone, placeLight, type Vec3 } from '../../core/scene/edits.js';
import type { Bench } from '../../session/bench.js';
import { placeAt } from '../../session/standing.js';
import { propInHand } from '../../session/state.js';
import { showReading } from '../ui/numbers.js';
import { useBench, useBenchState } from '../context.js';
import { held, keptStep } from './steps.js';

/** Puts every marked child where its point is seen; called after each frame. @param hold keeps those in sight that lie outside */
export function placeMarks(
  box: HTMLElement,
  at: (mark: HTMLElement) => Vec3 | null,
  project: (p: Vec3) => { x: number; y: number; ahead: boolean },
  hold: boolean,
) {
  for (const mark of box.querySelectorAll<HTMLElement>('[data-at]')) {
    const point = at(mark);
    const seen = point && project(point);
    const within = seen !== null && seen.x >= 0 && seen.x <= 1 && seen.y >= 0 && seen.y <= 1;
    const shown = seen !== null && seen.ahead && (hold || within);
    mark.hidden = !shown;
    if (!shown) continue;
    // A handle that lies outside is held inside the chips, where it can still be caught.
    const [side, ends] = hold ? [24, 60] : [0, 0];
    const x = Math.max(side, Math.min(box.clientWidth - side, seen.x * box.clientWidth));
    const y = Math.max(ends, Math.min(box.clientHeight - ends, seen.y * box.clientHeight));
    mark.style.transform = `translate(${x}px, ${y}px)`;
  }
}

export function Pins() {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const chosen = useBenchState((s) => s.chosen);
  const strand = useBenchState((s) => s.effect.strands.find((t) => t.id === s.chosen)?.name ?? null);
  const box = useRef<HTMLDivElement>(null);
  const pins = pinsOf(stage);

  useEffect(() => {
    const show = () => {
      const { view } = session.frames;
      if (!view || !box.current) return;
      const here = new Map(pinsOf(session.store.getState().stage).map((p) => [p.id, p]));
      placeMarks(
        box.current,
        (mark) => {
          const pin = here.get(mark.dataset.at!);
          return (pin && session.readings.placeOfPin(pin)?.world) ?? null;
        },
        (p) => view.pointing.project(p),
        false,
      );
    };
    show();
    return session.frames.onDrawn(show);
  }, [session, stage]);

  useEffect(
    () =>
      session.readings.onReadings(({ ids, probes, probed }) => {
        for (const mark of box.current?.querySelectorAll<HTMLElement>('[data-at]') ?? []) {
          const p = probes.indexOf(mark.dataset.at!);
          const k = ids.indexOf(chosen ?? '');
          const number = mark.querySelector<HTMLElement>('[data-number]')!;
          number.textContent = p >= 0 && k >= 0 ? showReading(probed[p * ids.length + k]!) : '';
        }
      }),
    [session, chosen, pins.length],
  );

  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden">
      {pins.map((pin) => (
        <div key={pin.id} data-at={pin.id} data-pin={pin.id} hidden className="absolute top-0 left-0 w-0">
          <svg width="16" height="16" className="absolute -top-2 -left-2" aria-hidden>
            <circle cx="8" cy="8" r="6" fill="none" stroke="#14121a" strokeWidth="3.5" />
            <circle cx="8" cy="8" r="6" fill="none" stroke="#ece7f3" strokeWidth="1.5" />
            <circle cx="8" cy="8" r="2" fill="#ece7f3" />
          </svg>
          <button
            className="stage-chip pointer-events-auto absolute -top-[13px] left-[14px]"
            title="Take the pin away"
            aria-label={`Pin ${pin.id}: take it away`}
            onClick={() => session.documents.editStage(`Delete pin ${pin.id}`, (d) => deletePin(d, { id: pin.id }))}
          >
            <b className="font-medium">{pin.id}</b>
            {strand !== null && <span className="max-w-[90px] truncate text-muted">{strand}</span>}
            <span className="num" data-number />
          </button>
        </div>
      ))}
    </div>
  );
}

/** Metres that an arrow key moves a thing. */
const NUDGE = 0.05;

/** How far the arrow keys move a thing, along which axis. */
const WAYS: Readonly<Record<string, Vec3>> = {
  ArrowLeft: [-1, 0, 0],
  ArrowRight: [1, 0, 0],
  ArrowUp: [0, 1, 0],
  ArrowDown: [0, -1, 0],
  PageUp: [0, 0, -1],
  PageDown: [0, 0, 1],
};

/** What is moved: a prop by its id, a light by `light` and its, a zone by `zone` and its. */
function placeOf({ props, lights, zones }: Stage, id: string): Vec3 | null {
  const thing =
    lights.find((l) => `light ${l.id}` === id) ?? zones.find((z) => `zone ${z.id}` === id) ?? props.find((p) => p.id === id);
  return thing?.place ?? null;
}

export function Handles() {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const box = useRef<HTMLDivElement>(null);
  // The one in hand has axes of its own.
  const inHand = useBenchState((s) => propInHand(s)?.id);
  const props = stage.props.filter((p) => p.visible && !p.locked && p.id !== inHand);
  const key = stage.lights.find((l) => l.kind === 'key');
  useMarks(box, stage, session);
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden">
      {props.map((p) => (
        <Handle key={p.id} id={p.id} name={p.name} icon={<Move size={14} strokeWidth={1.5} aria-hidden />} />
      ))}
      {key && <Handle id={`light ${key.id}`} name={key.name} icon={<Lightbulb size={14} strokeWidth={1.5} aria-hidden />} />}
    </div>
  );
}

/** The middles of zones, to be dragged; their boxes are drawn beside. */
export function ZoneHandles() {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const box = useRef<HTMLDivElement>(null);
  useMarks(box, stage, session);
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden">
      {stage.zones.map(({ id, name }) => (
        <Handle key={id} id={`zone ${id}`} name={name} icon={<BoxSelect size={14} strokeWidth={1.5} aria-hidden />} />
      ))}
    </div>
  );
}

/** Keeps the handles where what they move is seen. */
function useMarks(box: RefObject<HTMLDivElement | null>, stage: Stage, session: Bench): void {
  useEffect(() => {
    const show = () => {
      const { view } = session.frames;
      if (view && box.current)
        placeMarks(
          box.current,
          (mark) => placeOf(session.store.getState().stage, mark.dataset.at!),
          (p) => view.pointing.project(p),
          true,
        );
    };
    show();
    return session.frames.onDrawn(show);
  }, [box, session, stage]);
}

function Handle({ id, name, icon }: { id: string; name: string; icon: ReactNode }) {
  const session = useBench();
  const grip = useRef<{ x: number; y: number; from: Vec3 } | null>(null);
  const from = () => placeOf(session.store.getState().stage, id);
  const light = id.startsWith('light ') ? id.slice(6) : null;
  const zone = id.startsWith('zone ') ? id.slice(5) : null;
  const move = (to: Vec3) => {
    const step = keptStep();
    const rounded = to.map((v) => held(v, step)) as Vec3;
    if (zone !== null)
      session.documents.editStage(`Move ${name}`, (d) => changeZone(d, { id: zone, to: { place: rounded } }), `move ${id}`);
    else if (light === null) placeAt(session, id, rounded);
    else session.documents.editStage(`Move ${name}`, (d) => placeLight(d, { id: light, place: rounded }), `move ${id}`);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const way = Object.hasOwn(WAYS, event.key) ? WAYS[event.key] : undefined;
    const at = from();
    if (!way || !at) return;
    event.preventDefault();
    event.stopPropagation();
    move(at.map((v, k) => v + way[k]! * NUDGE) as Vec3);
  };
  const onPointerMove = (event: PointerEvent<HTMLButtonElement>) => {
    const { view } = session.frames;
    const { current } = grip;
    const box = event.currentTarget.parentElement!.parentElement!;
    if (!current || !view) return;
    const dx = (event.clientX - current.x) / box.clientWidth;
    const dy = (event.clientY - current.y) / box.clientHeight;
    move(view.pointing.slide(current.from, dx, dy));
  };
  const letGo = () => {
    grip.current = null;
    session.documents.endGesture();
  };
  return (
    <div data-at={id} hidden className="absolute top-0 left-0 w-0">
      <button
        data-handle={id}
        aria-label={`Move ${name}`}
        title={`Drag ${name}. Arrow keys move it too; Page Up and Page Down move it away and nearer`}
        className="stage-chip pointer-events-auto absolute -top-[13px] -left-[13px] h-[26px] w-[26px] touch-none justify-center px-0"
        onKeyDown={onKeyDown}
        onKeyUp={() => session.documents.endGesture()}
        onPointerDown={(e) => {
          const at = from();
          if (e.button !== 0 || !at) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          grip.current = { x: e.clientX, y: e.clientY, from: at };
        }}
        onPointerMove={onPointerMove}
        onPointerUp={letGo}
        onPointerCancel={letGo}
      >
        {icon}
      </button>
    </div>
  );
}
