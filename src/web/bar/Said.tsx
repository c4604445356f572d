/** What is said once, and what is asked before it is done. */
import { TriangleAlert, X } from 'lucide-react';
import { useBench, useBenchState } from '../context.js';
import { Asides } from './Asides.js';
import { SAYING } from './saying.js';

/** All that is said and asked, beside one another's way. @param beside what stands at the right edge, in pixels */
export function Sayings({ beside = 0 }: { beside?: number }) {
  return (
    <div
      data-layer
      className="pointer-events-none fixed top-[100px] z-30 flex w-[min(460px,calc(100vw-24px))] flex-col items-end gap-2 *:pointer-events-auto small:top-2"
      style={{ right: `min(${beside + 12}px, max(12px, calc(100vw - 484px)))` }}
    >
      <Asked />
      <Asides />
      <Notice />
    </div>
  );
}

/** Something that is said once, until it is closed. */
function Notice() {
  const session = useBench();
  const notice = useBenchState((s) => s.notice);
  if (notice === null) return null;
  return (
    <span role="status" data-testid="notice" className={SAYING}>
      <span className="min-w-0 py-0.5">{notice}</span>
      <button className="plain shrink-0" aria-label="Close the notice" onClick={() => session.store.setState({ notice: null })}>
        <X size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </span>
  );
}

/** Something that is done only when it is said. */
function Asked() {
  const session = useBench();
  const question = useBenchState((s) => s.question);
  if (!question) return null;
  return (
    <span role="alert" data-testid="question" className={SAYING}>
      <TriangleAlert size={14} strokeWidth={1.5} className="shrink-0 text-caution" aria-hidden />
      <span className="min-w-0 grow basis-[200px]">{question.text}</span>
      <button className="button shrink-0" onClick={() => session.choosing.answer(true)}>
        {question.yes}
      </button>
      {question.or && (
        <button className="button shrink-0" onClick={() => session.choosing.answer('or')}>
          {question.or.yes}
        </button>
      )}
      <button className="button shrink-0" onClick={() => session.choosing.answer(false)}>
        Leave it
      </button>
    </span>
  );
}
