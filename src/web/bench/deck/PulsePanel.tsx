/** Pulse: the chosen strand's value over the loop at every pin, and of the strands that are kept beside it. */
import { Pin, X } from 'lucide-react';
import { useEffect, useMemo, useRef } from 'react';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { PULSE_POINTS, type Pulse } from '../../../workers/readings.js';
import { settled, showNumber, tickText } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';

/** Lines are told apart by their letter first; tints and dashes only help. */
const TINTS = ['#ece7f3', '#e89ee0', '#54c7d1', '#a59bb8', '#c9a0ff', '#8fb4a8'];
const DASHES = ['', '5 3', '2 2', '8 3 2 3', '1 3'];
const MARGIN = { top: 8, right: 16, bottom: 0, left: 0 };
const AXIS = 52;

interface Curve {
  readonly key: string;
  readonly pin: string;
  readonly strand: string;
  readonly stroke: string;
  readonly dash: string;
}

function curvesOf({ probes, strands }: Pulse): Curve[] {
  return probes.flatMap((pin, p) =>
    strands.map((strand, s) => ({
      key: `${pin}:${strand}`,
      pin,
      strand,
      stroke: TINTS[p % TINTS.length]!,
      dash: DASHES[s % DASHES.length]!,
    })),
  );
}

/** Rows as the chart takes them, the first moment again at the end. */
function rowsOf({ values, span, strands, probes }: Pulse): Record<string, number | null>[] {
  return Array.from({ length: PULSE_POINTS + 1 }, (_, k) => {
    const row: Record<string, number | null> = { time: (k / PULSE_POINTS) * span };
    probes.forEach((pin, p) =>
      strands.forEach((strand, s) => {
        const value = values[(p * strands.length + s) * PULSE_POINTS + (k % PULSE_POINTS)]!;
        row[`${pin}:${strand}`] = Number.isFinite(value) ? value : null;
      }),
    );
    return row;
  });
}

function Playhead({ span }: { span: number }) {
  const session = useBench();
  const line = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = () => {
      if (line.current) line.current.style.left = `${(((session.clock.time % span) / span) * 100).toFixed(2)}%`;
    };
    show();
    return session.clock.onTick(show);
  }, [session, span]);
  return (
    <span className="pointer-events-none absolute" style={{ left: AXIS, right: MARGIN.right, top: MARGIN.top, bottom: 18 }}>
      <span ref={line} className="absolute top-0 bottom-0 w-px bg-wisp" />
    </span>
  );
}

/** The numbers at the pins now, drawn as they come. */
function Now({ curve }: { curve: Curve }) {
  const session = useBench();
  const text = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      session.readings.onReadings(({ ids, probes, probed, now }) => {
        const strand = ids.indexOf(curve.strand);
        const pin = probes.indexOf(curve.pin);
        if (strand < 0 || !text.current) return;
        const value = curve.pin === '' ? now[strand * 4]! : pin < 0 ? NaN : probed[pin * ids.length + strand]!;
        text.current.textContent = showNumber(settled(value));
      }),
    [session, curve],
  );
  return <span ref={text} className="num ml-auto" />;
}

export function PulsePanel() {
  const pulse = useBenchState((s) => s.pulse);
  const curves = useMemo(() => (pulse ? curvesOf(pulse) : []), [pulse]);
  if (!pulse || curves.length === 0)
    return (
      <p className="px-4 py-3 text-muted">
        Choose a strand to see its value over the loop; pin a place on a prop to see it there.
      </p>
    );
  return (
    <div className="flex h-full gap-3 px-4 py-2">
      <div className="scroll flex w-[164px] shrink-0 flex-col gap-1 overflow-y-auto">
        {[...new Set(curves.map((c) => c.strand))].map((id) => (
          <StrandLegend key={id} id={id} curves={curves.filter((c) => c.strand === id)} />
        ))}
      </div>
      <div
        className="relative min-w-0 grow"
        data-testid="pulse"
        data-values={JSON.stringify([...pulse.values].filter((_, k) => k % 4 === 0))}
      >
        <Curves pulse={pulse} curves={curves} />
        <Playhead span={pulse.span} />
      </div>
    </div>
  );
}

/** A strand's curves by name, and whether they stay while another strand is chosen. */
function StrandLegend({ id, curves }: { id: string; curves: readonly Curve[] }) {
  const { choosing } = useBench();
  const chosen = useBenchState((s) => s.chosen);
  const kept = useBenchState((s) => s.kept.includes(id));
  const name = useBenchState((s) => s.effect.strands.find((strand) => strand.id === id)?.name ?? id);
  return (
    <div className="border-b border-line pb-1">
      <div className="flex h-6 items-center gap-1">
        <span className="truncate font-medium" title={name}>
          {name}
        </span>
        {kept ? (
          <button className="plain ml-auto" aria-label={`Let ${name} go`} onClick={() => choosing.keepPulse(id, false)}>
            <X size={13} strokeWidth={1.5} aria-hidden />
          </button>
        ) : (
          <button
            className="plain ml-auto text-[12px]"
            aria-label={`Keep ${name}`}
            title="Keep it here while another strand is chosen"
            disabled={id !== chosen}
            onClick={() => choosing.keepPulse(id, true)}
          >
            <Pin size={12} strokeWidth={1.5} aria-hidden /> Keep
          </button>
        )}
      </div>
      {curves.map((c) => (
        <div key={c.key} data-pulse={c.key} className="flex h-5 items-center gap-2 text-[12px]">
          <svg width="18" height="4" aria-hidden>
            <line x1="0" x2="18" y1="2" y2="2" stroke={c.stroke} strokeWidth="1.75" strokeDasharray={c.dash} />
          </svg>
          <span
            className="whitespace-nowrap text-muted"
            title={c.pin === '' ? 'At the middle of the prop' : `At the pin ${c.pin}`}
          >
            {c.pin === '' ? 'middle' : c.pin}
          </span>
          <Now curve={c} />
        </div>
      ))}
    </div>
  );
}

const TICK = { fill: 'var(--color-muted)', fontSize: 10, fontFamily: 'var(--font-mono)' };

function Curves({ pulse, curves }: { pulse: Pulse; curves: readonly Curve[] }) {
  const rows = useMemo(() => rowsOf(pulse), [pulse]);
  return (
    <ResponsiveContainer width="100%" height="100%">
      <LineChart data={rows} margin={MARGIN} accessibilityLayer={false}>
        <CartesianGrid stroke="var(--color-line)" vertical={false} />
        <XAxis
          dataKey="time"
          type="number"
          domain={[0, pulse.span]}
          height={18}
          stroke="var(--color-edge)"
          tick={TICK}
          tickFormatter={(t: number) => (t === pulse.span ? `${showNumber(t)} s` : showNumber(t))}
          tickLine={false}
        />
        <YAxis
          width={AXIS}
          stroke="var(--color-edge)"
          domain={['auto', 'auto']}
          tickCount={4}
          tick={TICK}
          tickFormatter={tickText}
          tickLine={false}
          axisLine={false}
        />
        {curves.map((c) => (
          <Line
            key={c.key}
            dataKey={c.key}
            stroke={c.stroke}
            strokeWidth={1.5}
            {...(c.dash ? { strokeDasharray: c.dash } : {})}
            dot={false}
            isAnimationActive={false}
            connectNulls={false}
          />
        ))}
      </LineChart>
    </ResponsiveContainer>
  );
}
