/** The boxes of a stage's zones over the picture, while its optics are looked at: their sides, and where optics begin to blend. */
import { useEffect, useRef } from 'react';
import { sidesOfZone, type Zone } from '../../core/scene/zones.js';
import { useBench, useBenchState } from '../context.js';
import { ZoneHandles } from '../stage/Overlay.js';

export function ZoneBoxes() {
  const session = useBench();
  const zones = useBenchState((s) => s.stage.zones);
  const svg = useRef<SVGSVGElement>(null);
  useEffect(() => {
    const show = () => {
      const { view } = session.frames;
      if (!view || !svg.current) return;
      const { clientWidth, clientHeight } = svg.current;
      const path = (zone: Pick<Zone, 'place' | 'turn' | 'size'>) =>
        sidesOfZone(zone)
          .flatMap((side) => {
            const seen = side.map((p) => view.pointing.project(p));
            return seen.map(({ x, y, ahead }, k) => {
              const on = ahead && seen[k - 1]?.ahead;
              return ahead ? `${on ? 'L' : 'M'}${(x * clientWidth).toFixed(1)} ${(y * clientHeight).toFixed(1)}` : '';
            });
          })
          .join('');
      for (const zone of zones) {
        const lines = svg.current.querySelectorAll(`[data-box="${CSS.escape(zone.id)}"] path`);
        const inner = zone.size.map((v) => Math.max(0, v - 2 * zone.blend)) as Zone['size'];
        lines[0]?.setAttribute('d', path(zone));
        lines[1]?.setAttribute('d', inner.every((v) => v > 0) ? path({ ...zone, size: inner }) : '');
      }
    };
    show();
    return session.frames.onDrawn(show);
  }, [session, zones]);
  if (zones.length === 0) return null;
  return (
    <>
      <svg ref={svg} className="pointer-events-none absolute inset-0 h-full w-full" fill="none" aria-hidden>
        {zones.map(({ id }) => (
          <g key={id} data-box={id}>
            <path stroke="#ece7f3" strokeOpacity={0.8} strokeWidth={1} />
            <path stroke="#ece7f3" strokeOpacity={0.45} strokeWidth={1} strokeDasharray="3 4" />
          </g>
        ))}
      </svg>
      <ZoneHandles />
    </>
  );
}
