/** Drafts of this browser's that could not be read: offered as files, and kept until they are let go. */
import { TriangleAlert, X } from 'lucide-react';
import type { Aside } from '../../session/failure.js';
import { useBench, useBenchState } from '../context.js';
import { SAYING } from './saying.js';

const nameOf = ({ key }: Aside) => `${key.replace(/[^\w-]+/g, '-')}.wispen.json`;

function saveAside(aside: Aside): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify(aside.document, null, 2)], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = nameOf(aside);
  link.click();
  URL.revokeObjectURL(url);
}

export function AsideButton({ aside }: { aside: Aside }) {
  return (
    <button className="button shrink-0" title={`Cannot be read: ${aside.why}`} onClick={() => saveAside(aside)}>
      Save the draft as a file
    </button>
  );
}

/** In the top bar, for as long as there is one. */
export function Asides() {
  const session = useBench();
  const [aside] = useBenchState((s) => s.asides);
  if (!aside) return null;
  return (
    <span role="status" data-testid="aside" className={SAYING}>
      <TriangleAlert size={14} strokeWidth={1.5} className="shrink-0 text-caution" aria-hidden />
      <span className="min-w-0 grow basis-[200px]">A draft in this browser cannot be read: {aside.why}</span>
      <AsideButton aside={aside} />
      <button
        className="plain shrink-0"
        aria-label="Let the draft go"
        title="Let the draft go"
        onClick={() => void session.saving.letGo(aside)}
      >
        <X size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </span>
  );
}
