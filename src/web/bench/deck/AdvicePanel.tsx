/** Advice: what is wrong or likely to be, why, and a mend that is one press. */
import { Info, TriangleAlert, X } from 'lucide-react';
import { dismissedIn, type Finding } from '../../../core/analysis/findings.js';
import { choose, mend, recallAdvice, waveAside } from '../../../session/actions.js';
import { fillHeight } from '../../../session/paintFills.js';
import { useBench, useBenchState } from '../../context.js';

/** What has not been waved aside. */
export function useFindings(): readonly Finding[] {
  const findings = useBenchState((s) => s.findings);
  const effect = useBenchState((s) => s.effect);
  const aside = dismissedIn(effect);
  return findings.filter((f) => !aside.has(f.key));
}

function Mend({ how }: { how: NonNullable<Finding['mend']> }) {
  const session = useBench();
  const act = () => (how.kind === 'height-paint' ? void fillHeight(session, how.prop) : mend(session, how));
  return (
    <button className="button min-h-6 shrink-0" onClick={act}>
      {how.label}
    </button>
  );
}

export function AdvicePanel() {
  const session = useBench();
  const findings = useFindings();
  const strands = useBenchState((s) => s.effect.strands);
  const aside = useBenchState((s) => s.findings.length) - findings.length;
  return (
    <div className="scroll h-full overflow-y-auto px-4 py-1">
      <ul>
        {findings.map((f) => (
          <li key={f.key} data-finding={f.key} className="flex min-h-[45px] items-center gap-3 border-b border-line py-1">
            {f.level === 'caution' ? (
              <TriangleAlert size={14} strokeWidth={1.5} className="shrink-0 text-caution" aria-hidden />
            ) : (
              <Info size={14} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />
            )}
            <span className="min-w-0 grow">
              <span className="block font-medium">{f.what}</span>
              {f.why && <span className="block text-[12px] leading-4 text-muted">{f.why}</span>}
            </span>
            {f.mend ? (
              <Mend how={f.mend} />
            ) : (
              f.strand !== null &&
              strands.some((s) => s.id === f.strand) && (
                <button className="button min-h-6 shrink-0" onClick={() => choose(session, f.strand)}>
                  Show strand
                </button>
              )
            )}
            <button
              className="plain shrink-0"
              aria-label={`Dismiss: ${f.what}`}
              title="Dismiss it; it stays so for this effect"
              onClick={() => waveAside(session, f)}
            >
              <X size={14} strokeWidth={1.5} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      {findings.length === 0 && <p className="py-2 text-muted">Nothing stands out.</p>}
      {aside > 0 && (
        <p className="flex items-center gap-2 py-2 text-[12px] text-muted">
          {aside === 1 ? '1 finding is dismissed.' : `${aside} findings are dismissed.`}
          <button className="button min-h-6" onClick={() => recallAdvice(session)}>
            Show again
          </button>
        </p>
      )}
    </div>
  );
}
