/** The threads in the sheet's margin: thin curves from a strand to those that read it. */
import { memo } from 'react';
import type { Thread } from '../../../core/effect/threads.js';
import { ROW, type Layout } from './layout.js';

interface Props {
  readonly layout: Pick<Layout, 'anchor' | 'height'>;
  readonly threads: readonly Thread[];
  readonly chosen: string | null;
  readonly kin: ReadonlySet<string>;
  readonly faulty: ReadonlySet<string>;
}

/** Rows that an idle thread may span before it shrinks to a stub. */
const LONGEST_IDLE = 10;
const X = 38;

function curve(y1: number, y2: number): string {
  const bulge = Math.min(40, 8 + 1.08 * Math.abs(y2 - y1) ** 0.62);
  return `M${X} ${y1} C${X - bulge} ${y1} ${X - bulge} ${y2} ${X} ${y2}`;
}

export const Threads = memo(function Threads({ layout, threads, chosen, kin, faulty }: Props) {
  const lines = threads.flatMap(({ from, to }) => {
    const y1 = layout.anchor.get(from);
    const y2 = layout.anchor.get(to);
    if (y1 === undefined || y2 === undefined || y1 === y2) return [];
    const direct = chosen !== null && (from === chosen || to === chosen);
    const indirect = !direct && chosen !== null && (kin.has(from) || from === chosen) && (kin.has(to) || to === chosen);
    return [{ from, to, y1: y1 + 4, y2: y2 - 4, direct, indirect, long: (y2 - y1) / ROW > LONGEST_IDLE, fault: faulty.has(to) }];
  });
  const rank = (l: (typeof lines)[number]) => (l.direct ? 2 : l.indirect ? 1 : 0);
  const drawn = lines.filter((l) => !l.long || l.direct || l.indirect || l.fault).sort((a, b) => rank(a) - rank(b));
  const stubs = new Map<string, { y: number; count: number; up: boolean }>();
  for (const l of lines)
    if (l.long && !l.direct && !l.indirect && !l.fault)
      for (const [id, y, up] of [
        [l.to, l.y2, true],
        [l.from, l.y1, false],
      ] as const) {
        const key = `${id} ${up}`;
        stubs.set(key, { y, up, count: (stubs.get(key)?.count ?? 0) + 1 });
      }
  const ends = new Set(lines.flatMap((l) => [l.from, l.to]));
  return (
    <svg className="pointer-events-none absolute top-0 left-0" width={44} height={layout.height} aria-hidden>
      {drawn.map((l) => (
        <path
          key={`${l.from} ${l.to}`}
          data-thread={`${l.from} ${l.to}`}
          d={curve(l.y1, l.y2)}
          fill="none"
          stroke={
            l.fault
              ? 'var(--color-fault)'
              : l.direct
                ? 'var(--color-wisp)'
                : l.indirect
                  ? 'var(--color-indirect)'
                  : 'var(--color-thread)'
          }
          strokeWidth={l.direct ? 1.75 : l.indirect ? 1.25 : 1.1}
          strokeDasharray={l.fault ? '3 3' : undefined}
        />
      ))}
      {[...stubs].map(([key, { y, count, up }]) => (
        <g key={key}>
          <path d={`M${X} ${y} q-8 0 -12 ${up ? -3 : 3}`} fill="none" stroke="var(--color-thread)" strokeWidth={1.1} />
          <text x={18.5} y={y + (up ? 0 : 8)} textAnchor="end" className="num" fontSize={10} fill="var(--color-muted)">
            {count}
            {up ? '↑' : '↓'}
          </text>
        </g>
      ))}
      {[...ends].map((id) => (
        <circle
          key={id}
          cx={X + 1}
          cy={layout.anchor.get(id)}
          r={id === chosen ? 3 : 1.75}
          fill={id === chosen ? 'var(--color-wisp)' : kin.has(id) ? 'var(--color-indirect)' : 'var(--color-thread)'}
        />
      ))}
    </svg>
  );
});
