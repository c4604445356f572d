/** Where on the chosen prop triggers were fired that are still heard, and how long ago. */
import { useEffect, useRef } from 'react';
import { firingsOf, type Firing } from '../../core/effect/triggers.js';
import { propIn } from '../../core/scene/pieces.js';
import { useBench, useBenchState } from '../context.js';
import { placeLetter } from '../bench/time/letters.js';
import { placeMarks } from './Overlay.js';

interface Mark {
  readonly key: string;
  readonly name: string;
  readonly letter: string;
  readonly firing: Firing;
  readonly duration: number;
}

export function Struck() {
  const session = useBench();
  const triggers = useBenchState((s) => s.effect.triggers);
  const live = useBenchState((s) => s.firings);
  const prop = useBenchState((s) => propIn(s.prop));
  const box = useRef<HTMLDivElement>(null);
  const marks = triggers.flatMap(({ id, name, duration, ...trigger }): Mark[] => {
    const all = [...firingsOf(trigger), ...(live[id] ?? [])];
    return all.flatMap((firing, k) =>
      firing.place ? [{ key: `${id} ${k}`, name, letter: placeLetter(all, firing.place), firing, duration }] : [],
    );
  });
  useEffect(() => {
    const show = () => {
      const { view } = session.frames;
      if (!view || !box.current) return;
      const { time } = session.clock;
      placeMarks(
        box.current,
        (mark) => {
          const { firing, duration } = marks.find((m) => m.key === mark.dataset.at)!;
          const since = time - firing.at;
          if (since < 0 || since > duration) return null;
          mark.querySelector('[data-since]')!.textContent = `${since.toFixed(2)} s`;
          const pin = { id: mark.dataset.at!, prop, position: [...firing.place!], normal: [0, 0, 1], uv: [0, 0] };
          return session.readings.placeOfPin(pin as Parameters<typeof session.readings.placeOfPin>[0])?.world ?? null;
        },
        (p) => view.pointing.project(p),
        false,
      );
    };
    show();
    return session.frames.onDrawn(show);
  });
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden">
      {marks.map(({ key, name, letter }) => (
        <div key={key} data-at={key} data-struck={key} hidden className="absolute top-0 left-0 w-0">
          <svg width="16" height="16" className="absolute -top-2 -left-2" aria-hidden>
            <circle cx="8" cy="8" r="6" fill="none" stroke="#14121a" strokeWidth="3.5" />
            <circle cx="8" cy="8" r="6" fill="none" stroke="#ece7f3" strokeWidth="1.5" />
            <circle cx="8" cy="8" r="2" fill="#ece7f3" />
          </svg>
          <span className="stage-chip absolute -top-[13px] right-[14px]">
            <b className="font-medium">{letter}</b>
            <span className="max-w-[90px] truncate text-muted">{name}</span>
            <span className="num" data-since />
          </span>
        </div>
      ))}
    </div>
  );
}
