/**
 * The Overview: the same sheet, drawn by itself as lanes by where values are computed. Choosing here chooses in the sheet.
 * To the keyboard and to readers of screens it is a list of strands; arrows go along the threads.
 */
import { Fragment, memo, useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { whereComputed } from '../../../core/analysis/where.js';
import { outputRecord } from '../../../core/effect/outputs.js';
import { family, feedersOf, threadsOf } from '../../../core/effect/threads.js';
import { strandsOf } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { percent } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';
import { WhereMark } from '../sheet/marks.js';
import { Swatch } from '../sheet/Swatch.js';
import { textWidth } from '../sheet/textWidth.js';
import { curveBetween, dotAt, layOver, nameDots, nameHeads, radiusOf, type Dot, type Plot } from './layout.js';
import { SheetOrOverview } from './SheetOrOverview.js';

/** The line of controls and the line of titles above the drawing. */
const CONTROLS = 40;
const TITLES = 28;
/** A title that has less room is not written. */
const LEAST_TITLE = 24;
/** A share from which a strand's cost stands beside its name. */
const WORTH_SAYING = 0.05;
const NAME_FACE = "400 11.5px 'Instrument Sans Variable'";
const TITLE_FACE = "600 13px 'Bricolage Grotesque Variable'";
const SHARES = [0.01, 0.05, 0.2];
const NO_SHARES: ReadonlyMap<string, number> = new Map();

/** The shares of the cost, for as long as somebody looks at them. */
function useShares(): ReadonlyMap<string, number> {
  const session = useBench();
  const known = useBenchState((s) => s.cost);
  useEffect(() => {
    session.readings.watchCost(true);
    return () => session.readings.watchCost(false);
  }, [session]);
  return useMemo(() => (known ? new Map([...known.cost.strands].map(([id, { share }]) => [id, share])) : NO_SHARES), [known]);
}

/** The pixels that are to be had. */
function useSize() {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1280, height: 508 });
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      setSize({ width: Math.round(width), height: Math.round(height) });
    });
    watcher.observe(box.current!);
    return () => watcher.disconnect();
  }, []);
  return { box, size };
}

export function Overview({ onOpen }: { onOpen: (strand: string) => void }) {
  const effect = useBenchState((s) => s.effect);
  const readings = useBenchState((s) => s.readings);
  const shares = useShares();
  const { box, size } = useSize();
  const where = useMemo(() => whereComputed(effect, readings), [effect, readings]);
  const plot = useMemo(
    () => layOver(effect, where, shares, { width: size.width, height: Math.max(200, size.height - CONTROLS - TITLES) }),
    [effect, where, shares, size],
  );
  const count = effect.strands.length;
  return (
    <section ref={box} aria-label="Overview" className="flex h-full flex-col overflow-hidden bg-panel">
      <div className="flex shrink-0 items-center gap-4 px-4 text-[12px] text-muted" style={{ height: CONTROLS }}>
        <SheetOrOverview />
        <span>{count === 1 ? '1 strand' : `${count} strands`}</span>
        <span className="grow" />
        <Legend />
      </div>
      <Titles plot={plot} />
      {count === 0 ? (
        <p className="m-auto text-muted">The sheet is empty; there is nothing to look over yet.</p>
      ) : (
        <Drawing plot={plot} onOpen={onOpen} />
      )}
    </section>
  );
}

function Legend() {
  return (
    <span className="flex items-center gap-3">
      share of the cost
      {SHARES.map((share) => {
        const r = radiusOf(share, false);
        return (
          <span key={share} className="flex items-center gap-1.5">
            <svg width={2 * r + 2} height={2 * r + 2} aria-hidden>
              <circle cx={r + 1} cy={r + 1} r={r} className="fill-raised stroke-thread" />
              <circle cx={r + 1} cy={r + 1} r={2} className="fill-muted" />
            </svg>
            <span className="num">{percent(share).replace('.0', '')}</span>
          </span>
        );
      })}
    </span>
  );
}

function Titles({ plot }: { plot: Plot }) {
  const placed = nameHeads(plot.heads, (title) => textWidth(title, TITLE_FACE) + 2);
  return (
    <div className="relative shrink-0" style={{ height: TITLES }}>
      {plot.heads.map(({ first, title, x, width }, k) => {
        const text = placed[k]!;
        return (
          title !== '' && (
            <Fragment key={first}>
              <span className="absolute top-[25px] h-px bg-line" style={{ left: x, width }} />
              {text.width >= LEAST_TITLE && (
                <span
                  className="head absolute top-1 truncate text-[13px] leading-5"
                  style={{ left: text.left, width: text.width }}
                  title={title}
                >
                  {title}
                </span>
              )}
            </Fragment>
          )
        );
      })}
      <span className="head absolute top-1 text-[13px] leading-5" style={{ left: plot.right + 36 }}>
        Surface
      </span>
    </div>
  );
}

/** Which strands matter to what is chosen, and how much their names do. */
function useKin(plot: Plot) {
  const effect = useBenchState((s) => s.effect);
  const chosen = useBenchState((s) => s.chosen);
  const threads = useMemo(() => threadsOf(effect), [effect]);
  const kin = useMemo(() => (chosen === null ? new Set<string>() : family(threads, chosen)), [threads, chosen]);
  const named = useMemo(() => {
    const direct = new Set(threads.flatMap((t) => (t.from === chosen ? [t.to] : t.to === chosen ? [t.from] : [])));
    const rank = (d: Dot) =>
      d.id === chosen ? 4 : direct.has(d.id) ? 3 : kin.has(d.id) ? 2 : d.share >= WORTH_SAYING ? 1 + d.share : d.share;
    const wide = (d: Dot) => textWidth(d.name, NAME_FACE) + (d.share >= WORTH_SAYING ? 28 : 0);
    return nameDots(plot, rank, wide);
  }, [plot, threads, kin, chosen]);
  return { chosen, kin, named };
}

/** Next to a dot along its threads, or up and down its lane. */
function nextDot(plot: Plot, from: Dot, key: string): Dot | undefined {
  const dotOf = (id: string) => plot.dots.find((d) => d.id === id);
  const along = (ids: string[]) => ids.flatMap((id) => dotOf(id) ?? []);
  const near = (dots: Dot[]) => dots.sort((a, b) => Math.abs(a.y - from.y) - Math.abs(b.y - from.y))[0];
  switch (key) {
    case 'ArrowLeft':
      return near(along(plot.threads.flatMap((t) => (t.to === from.id ? [t.from] : []))));
    case 'ArrowRight':
      return near(along(plot.threads.flatMap((t) => (t.from === from.id ? [t.to] : []))));
    case 'ArrowUp':
    case 'ArrowDown': {
      const down = key === 'ArrowDown' ? 1 : -1;
      const that = plot.dots.filter((d) => (d.y - from.y) * down > 1);
      const far = (d: Dot) => Math.abs(d.y - from.y) + 2 * Math.abs(d.x - from.x);
      return that.sort((a, b) => far(a) - far(b))[0];
    }
    case 'Home':
      return plot.dots[0];
    case 'End':
      return plot.dots.at(-1);
  }
  return undefined;
}

function Drawing({ plot, onOpen }: { plot: Plot; onOpen: (strand: string) => void }) {
  const session = useBench();
  const { chosen, kin, named } = useKin(plot);
  const [over, setOver] = useState<Dot | null>(null);
  const at = useMemo(() => new Map(plot.dots.map((d) => [d.id, d])), [plot]);
  const pointed = (e: MouseEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    return dotAt(plot, e.clientX - box.left, e.clientY - box.top);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const from = chosen === null ? undefined : at.get(chosen);
    if (e.key === 'Enter' && from) onOpen(from.id);
    else if (e.key.startsWith('Arrow') || e.key === 'Home' || e.key === 'End') {
      const next = from ? nextDot(plot, from, e.key) : plot.dots[0];
      if (next) session.choosing.only(next.id);
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <div
      className={`relative grow ${over ? 'cursor-pointer' : ''}`}
      onPointerMove={(e) => setOver(pointed(e))}
      onPointerLeave={() => setOver(null)}
      onClick={(e) => {
        const dot = pointed(e);
        if (dot) session.choosing.only(dot.id);
      }}
      onDoubleClick={() => over && onOpen(over.id)}
    >
      <LaneNames plot={plot} />
      <svg className="absolute inset-0" width={plot.width} height={plot.height} aria-hidden>
        {plot.lanes.slice(1).map(({ where, y }) => (
          <line key={where} x1={0} x2={plot.width} y1={y + 0.5} y2={y + 0.5} className="stroke-line" />
        ))}
        <Curves plot={plot} at={at} chosen={chosen} kin={kin} />
      </svg>
      <svg
        role="listbox"
        aria-label="Strands by where they are computed"
        aria-activedescendant={chosen === null ? undefined : `dot-${chosen}`}
        tabIndex={0}
        className="absolute inset-0 rounded-sm outline-offset-[-2px]"
        width={plot.width}
        height={plot.height}
        onKeyDown={onKeyDown}
      >
        <Dots plot={plot} chosen={chosen} kin={kin} />
      </svg>
      <svg className="pointer-events-none absolute inset-0" width={plot.width} height={plot.height} aria-hidden>
        <Names named={named} at={at} chosen={chosen} kin={kin} />
      </svg>
      <Ends plot={plot} chosen={chosen} kin={kin} />
      {over && <Pointed dot={over} plot={plot} />}
    </div>
  );
}

function LaneNames({ plot }: { plot: Plot }) {
  return plot.lanes.map(({ where, y, count, share }) => (
    <div key={where} className="absolute left-4 text-[12px] leading-[17px] text-muted" style={{ top: y + 7 }}>
      <span className="flex items-center gap-2 text-ink">
        <WhereMark rate={where} />
        {where}
      </span>
      {count > 0 && <div>{count === 1 ? '1 strand' : `${count} strands`}</div>}
      {count > 0 && share > 0 && <div className="num">{percent(share)}</div>}
    </div>
  ));
}

interface Lit {
  readonly plot: Plot;
  readonly chosen: string | null;
  readonly kin: ReadonlySet<string>;
}

/** Pointing at a dot draws none of the others anew. */
const Curves = memo(function Curves({ plot, at, chosen, kin }: Lit & { at: ReadonlyMap<string, Dot> }) {
  const lines = [
    ...plot.threads.map(({ from, to }) => ({ from, to, a: at.get(from)!, b: at.get(to)! })),
    ...plot.ends.map(({ from, name, x, y }) => ({ from, to: `output ${name}`, a: at.get(from)!, b: { x: x - 4, y } })),
  ].map((line) => {
    const own = (id: string) => id === chosen || kin.has(id) || id.startsWith('output ');
    const level = line.from === chosen || line.to === chosen ? 2 : own(line.from) && own(line.to) && chosen !== null ? 1 : 0;
    return { ...line, level };
  });
  const look = ['stroke-thread', 'stroke-indirect', 'stroke-wisp'];
  return [...lines]
    .sort((a, b) => a.level - b.level)
    .map(({ from, to, a, b, level }) => (
      <path
        key={`${from} ${to}`}
        d={curveBetween(a, b)}
        data-curve={`${from} ${to}`}
        fill="none"
        className={look[level]}
        strokeWidth={[1.1, 1.25, 1.75][level]}
        strokeOpacity={level === 0 ? 0.75 : 1}
      />
    ));
});

const Dots = memo(function Dots({ plot, chosen, kin }: Lit) {
  return plot.dots.map((d) => {
    const own = d.id === chosen;
    const line = own ? 'stroke-wisp' : kin.has(d.id) ? 'stroke-indirect' : 'stroke-thread';
    const fill = own ? 'fill-wisp' : kin.has(d.id) ? 'fill-indirect' : 'fill-muted';
    return (
      <g key={d.id} id={`dot-${d.id}`} role="option" aria-selected={own} aria-label={d.name} data-dot={d.id}>
        {(d.share >= 0.005 || own) && (
          <circle
            cx={d.x}
            cy={d.y}
            r={own ? Math.max(d.r, 7) : d.r}
            className={`fill-raised ${line}`}
            strokeWidth={own ? 1.75 : 1}
          />
        )}
        <circle cx={d.x} cy={d.y} r={own ? 3.5 : Math.min(d.r, 2.5)} className={fill} />
      </g>
    );
  });
});

function Names({
  named,
  at,
  chosen,
  kin,
}: Omit<Lit, 'plot'> & { named: ReturnType<typeof nameDots>; at: ReadonlyMap<string, Dot> }) {
  return (
    <g textAnchor="middle" fontSize={11.5}>
      {named.map(({ id, x, y }) => {
        const dot = at.get(id)!;
        const lit = id === chosen || kin.has(id);
        return (
          <text
            key={id}
            x={x}
            y={y}
            className={lit ? 'fill-ink' : 'fill-muted'}
            stroke="var(--color-panel)"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {dot.name}
            {dot.share >= WORTH_SAYING && (
              <tspan className="num fill-muted" fontSize={10.5}>
                {' '}
                {Math.round(dot.share * 100)} %
              </tspan>
            )}
          </text>
        );
      })}
    </g>
  );
}

/** What the surface receives. */
function Ends({ plot, chosen, kin }: Lit) {
  const readings = useBenchState((s) => s.readings);
  return plot.ends.map(({ name, from, x, y }) => {
    const lit = from === chosen || kin.has(from);
    return (
      <div
        key={name}
        className={`absolute flex items-center gap-2 ${lit ? 'font-medium text-ink' : 'text-muted'}`}
        style={{ left: x, top: y - 12 }}
      >
        <Swatch id={from} rate={readings.get(from)?.rate} label={outputRecord(name).label} />
        {outputRecord(name).label}
      </div>
    );
  });
}

/** What is told of the dot that is pointed at. */
function Pointed({ dot, plot }: { dot: Dot; plot: Plot }) {
  const strand = useBenchState((s) => strandsOf(s.effect).find((t) => t.id === dot.id));
  const fed = useMemo(() => feedersOf(plot.threads, dot.id), [plot, dot]);
  if (!strand) return null;
  const whole = dot.share + plot.dots.reduce((sum, d) => (fed.has(d.id) ? sum + d.share : sum), 0);
  const above = dot.y > 70;
  return (
    <div
      className="pointer-events-none absolute z-10 -translate-x-1/2 rounded-md border border-edge bg-raised px-2.5 py-1 text-[12px] leading-[17px] whitespace-nowrap"
      style={{
        left: Math.max(100, Math.min(plot.width - 100, dot.x)),
        ...(above ? { bottom: `calc(100% - ${dot.y - dot.r - 8}px)` } : { top: dot.y + dot.r + 8 }),
      }}
    >
      <span className="font-medium">{dot.name}</span> <span className="text-muted">{operatorOf(strand.op).label}</span>
      <div className="text-muted">
        <span className="num text-ink">{percent(dot.share)}</span>, with feeders{' '}
        <span className="num text-ink">{percent(whole)}</span>
      </div>
    </div>
  );
}
