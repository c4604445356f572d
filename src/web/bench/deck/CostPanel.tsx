/** Cost: what each strand adds for a pixel, and what holding a dial for good would take off. */
import { useEffect } from 'react';
import { dialLabel } from '../../../core/effect/edits.js';
import { strandsOf } from '../../../core/effect/schema.js';
import { choose } from '../../../session/actions.js';
import { percent } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';

export function CostPanel() {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const problems = useBenchState((s) => s.problems.length);
  const known = useBenchState((s) => s.cost);
  useEffect(() => {
    session.readings.watchCost(true);
    return () => session.readings.watchCost(false);
  }, [session]);
  if (problems > 0) return <p className="p-4 text-muted">The sheet has an error; its cost is known once that is mended.</p>;
  if (!known) return <p className="p-4 text-muted">Working out what each strand costs.</p>;
  const { cost, savings: saved } = known;
  const rows = strandsOf(effect)
    .flatMap((s) => {
      const own = cost.strands.get(s.id);
      return own && own.share > 0 ? [{ strand: s, own }] : [];
    })
    .sort((a, b) => b.own.share - a.own.share);
  const dials = effect.dials.filter((d) => (saved.get(d.id) ?? 0) >= 0.005).sort((a, b) => saved.get(b.id)! - saved.get(a.id)!);
  const { arithmetic, transcendental, reads } = cost.total;
  return (
    <div className="grid h-full grid-cols-[1fr_220px]">
      <div className="scroll h-full overflow-y-auto px-4 py-2">
        <p className="pb-1 text-[12px] text-muted">
          A pixel takes <span className="num text-ink">{arithmetic}</span> operations,{' '}
          <span className="num text-ink">{transcendental}</span> calls of sines and powers among them, and{' '}
          <span className="num text-ink">{reads}</span> texture reads.
        </p>
        <ul>
          {rows.map(({ strand, own }) => (
            <li key={strand.id} data-cost={strand.id} className="grid h-6 grid-cols-[140px_1fr_52px_132px] items-center gap-3">
              <button className="truncate text-left hover:underline" onClick={() => choose(session, strand.id)}>
                {strand.name}
              </button>
              <span className="h-1.5 bg-base" aria-hidden>
                <span className="block h-full bg-thread" style={{ width: `${own.share * 100}%` }} />
              </span>
              <span className="num text-right">{percent(own.share)}</span>
              <span className="num truncate text-muted" title="Operations, calls of sines and powers, texture reads">
                {own.arithmetic} · {own.transcendental} · {own.reads}
              </span>
            </li>
          ))}
        </ul>
        {rows.length === 0 && <p className="text-muted">Nothing of it differs from pixel to pixel.</p>}
      </div>
      <div className="scroll h-full overflow-y-auto border-l border-line px-4 py-2">
        <p className="pb-1 text-[12px] text-muted">Held for good, a dial would save</p>
        {dials.map((d) => (
          <p key={d.id} data-saving={d.id} className="flex h-6 items-center justify-between gap-2">
            <span className="truncate">{dialLabel(effect, d)}</span>
            <span className="num">{percent(saved.get(d.id)!)}</span>
          </p>
        ))}
        {dials.length === 0 && <p>nothing that counts.</p>}
      </div>
    </div>
  );
}
