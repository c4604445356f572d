/** The chosen strand beside the Overview: its picture, what it reads and who reads it, its range, its cost, what it reaches. */
import { useMemo, type ReactNode } from 'react';
import { toldOf } from '../../../core/analysis/reading.js';
import { reachedOutputs } from '../../../core/analysis/where.js';
import { outputRecord } from '../../../core/effect/outputs.js';
import { strandsOf, type Effect, type Strand } from '../../../core/effect/schema.js';
import { feedersOf, sourcesOf, threadsOf } from '../../../core/effect/threads.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { percent } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';
import { shortNumber } from '../sheet/layout.js';
import { Swatch } from '../sheet/Swatch.js';

/** Strands that are named; the rest are counted. */
const MOST_NAMED = 4;

export function StrandCard({ onOpen }: { onOpen: (strand: string) => void }) {
  const effect = useBenchState((s) => s.effect);
  const strand = useBenchState((s) => strandsOf(s.effect).find((t) => t.id === s.chosen));
  return (
    <section aria-label="Chosen strand" className="scroll h-full overflow-y-auto bg-panel px-4 py-3">
      {strand ? (
        <Told effect={effect} strand={strand} onOpen={onOpen} />
      ) : (
        <p className="text-muted">
          Choose a strand, by a click or with the arrow keys: what it reads, who reads it and what it costs stand here.
        </p>
      )}
    </section>
  );
}

/** The section that a strand stands in. */
function sectionOf(effect: Effect, id: string): string | null {
  const heads = new Map(effect.sections.map((s) => [s.first, s.title]));
  let title: string | null = null;
  for (const strand of strandsOf(effect)) {
    title = heads.get(strand.id) ?? title;
    if (strand.id === id) return title;
  }
  return null;
}

function Told({ effect, strand, onOpen }: { effect: Effect; strand: Strand; onOpen: (strand: string) => void }) {
  const reading = useBenchState((s) => s.readings.get(strand.id));
  const cost = useBenchState((s) => s.cost?.cost ?? null);
  const threads = useMemo(() => threadsOf(effect), [effect]);
  const range = reading && toldOf(reading);
  const own = cost?.strands.get(strand.id);
  const withFeeders = [...feedersOf(threads, strand.id), strand.id].reduce(
    (sum, id) => sum + (cost?.strands.get(id)?.share ?? 0),
    0,
  );
  const reaches = [...(reachedOutputs(effect).get(strand.id) ?? [])].map((name) => outputRecord(name).label);
  const section = sectionOf(effect, strand.id);
  const readers = threads.flatMap((t) => (t.from === strand.id ? [t.to] : []));
  return (
    <>
      <h2 className="head truncate text-[14px] leading-5">
        {strand.name}
        <span className="ml-2 text-[12px] font-normal text-muted">
          {operatorOf(strand.op).label}
          {section && `, in ${section}`}
        </span>
      </h2>
      <div className="mt-2 flex gap-4">
        <span className="[&>canvas]:h-[108px] [&>canvas]:w-[144px]">
          <Swatch id={strand.id} rate={reading?.rate} label={strand.name} />
        </span>
        <dl className="grid min-w-0 grow grid-cols-[76px_minmax(0,1fr)] content-start gap-y-1 text-[12px] leading-[22px]">
          <Line name="reads">
            <Strands ids={sourcesOf(strand)} none="nothing" />
          </Line>
          <Line name="read by">
            <Strands ids={readers} none="nobody" />
          </Line>
          <Line name="range">
            <span className="num">{range ? `${shortNumber(range.low)} .. ${shortNumber(range.high)}` : 'not known yet'}</span>
          </Line>
          <Line name="itself">
            <span className="num">{own ? percent(own.share) : '0 %'}</span>
            {own && own.share > 0 && <span className="text-muted">, {own.arithmetic} operations</span>}
          </Line>
          <Line name="with feeders">
            <span className="num">{percent(withFeeders)}</span>
          </Line>
          <Line name="reaches">{reaches.length > 0 ? reaches.join(', ') : 'no output'}</Line>
        </dl>
      </div>
      <p className="mt-2 flex items-center gap-2 text-[12px] text-muted">
        <button className="button min-h-6 text-[12px]" onClick={() => onOpen(strand.id)}>
          Open in the sheet <kbd>Enter</kbd>
        </button>
        <kbd>←</kbd> to a feeder <kbd>→</kbd> to a reader
      </p>
    </>
  );
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-muted">{name}</dt>
      <dd className="truncate">{children}</dd>
    </>
  );
}

function Strands({ ids, none }: { ids: readonly string[]; none: string }) {
  const session = useBench();
  const strands = useBenchState((s) => s.effect.strands);
  if (ids.length === 0) return <span className="text-muted">{none}</span>;
  return (
    <span className="flex gap-1">
      {ids.slice(0, MOST_NAMED).map((id) => (
        <button key={id} className="chip chip-strand min-w-0 hover:border-edge" onClick={() => session.choosing.only(id)}>
          <span className="truncate">{strands.find((s) => s.id === id)?.name ?? id}</span>
        </button>
      ))}
      {ids.length > MOST_NAMED && <span className="num text-muted">+{ids.length - MOST_NAMED}</span>}
    </span>
  );
}
