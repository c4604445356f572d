/** The small marks of a row: what kind of value, and where it is computed. */
import type { Kind } from '../../../core/base/kinds.js';
import type { Rate } from '../../../core/ir/leaves.js';

export const KindBox = ({ kind }: { kind: Kind }) => (
  <span
    className="num flex h-[14px] min-w-[14px] items-center justify-center rounded-[3px] border border-line px-0.5 text-[10px] text-muted"
    title={kind === 'rgb' ? 'a colour' : kind === '1' ? 'one number' : `${kind} numbers`}
  >
    {kind}
  </span>
);

const WORDS: Record<Rate, string> = {
  once: 'computed once',
  frame: 'computed once a frame',
  vertex: 'computed at the vertices',
  pixel: 'computed for every pixel',
};

/** @param rate where it is computed (`whereComputed`) */
export function WhereMark({ rate }: { rate: Rate }) {
  return (
    <svg width={12} height={12} viewBox="0 0 12 12" role="img" aria-label={WORDS[rate]} className="text-muted">
      <title>{WORDS[rate]}</title>
      {rate === 'once' && <circle cx={6} cy={6} r={2} fill="currentColor" />}
      {rate === 'frame' && <path d="M1.5 2.5h9v7h-9zM6 2.5v7" fill="none" stroke="currentColor" />}
      {rate === 'vertex' && <path d="M6 1.5 10.8 10H1.2z" fill="none" stroke="currentColor" />}
      {rate === 'pixel' && (
        <g fill="currentColor">
          <rect x={1} y={1} width={5} height={5} />
          <rect x={6} y={6} width={5} height={5} />
          <path d="M1 1h10v10H1z" fill="none" stroke="currentColor" />
        </g>
      )}
    </svg>
  );
}
