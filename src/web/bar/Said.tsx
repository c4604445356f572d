/** What is said once, and what is asked before it is done. */
import { TriangleAlert, X } from 'lucide-react';
import { useBench, useBenchState } from '../context.js';

/** Something that is said once, until it is closed. */
export function Notice() {
  const session = useBench();
  const notice = useBenchState((s) => s.notice);
  if (notice === null) return null;
  return (
    <span role="status" data-testid="notice" className="flex min-w-0 items-center gap-1 text-muted">
      <span className="truncate" title={notice}>
        {notice}
      </span>
      <button className="plain shrink-0" aria-label="Close the notice" onClick={() => session.store.setState({ notice: null })}>
        <X size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </span>
  );
}

/** Something that is done only when it is said. */
export function Asked() {
  const session = useBench();
  const question = useBenchState((s) => s.question);
  if (!question) return null;
  return (
    <span role="alert" data-testid="question" className="flex min-w-0 items-center gap-2">
      <TriangleAlert size={14} strokeWidth={1.5} className="shrink-0 text-caution" aria-hidden />
      <span className="truncate" title={question.text}>
        {question.text}
      </span>
      <button className="button shrink-0" onClick={() => session.choosing.answer(true)}>
        {question.yes}
      </button>
      <button className="button shrink-0" onClick={() => session.choosing.answer(false)}>
        Leave it
      </button>
    </span>
  );
}
