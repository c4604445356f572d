/** The guided start, beside the stage: the step to do now, and those that are done. It is left at any time. */
import { Check, X } from 'lucide-react';
import { useSearchParams } from 'react-router';
import { useBenchState } from '../../context.js';
import { STEPS, stepsDone } from './steps.js';

const PARAMETER = 'guide';

export function Guide() {
  const [search, setSearch] = useSearchParams();
  if (!search.has(PARAMETER)) return null;
  const leave = () =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        next.delete(PARAMETER);
        return next;
      },
      { replace: true },
    );
  return <Card onLeave={leave} />;
}

/** The step to do; worked out only while it is shown. */
function Card({ onLeave }: { onLeave: () => void }) {
  const done = useBenchState(stepsDone);
  const step = STEPS[done];
  return (
    <section
      aria-label="Guided start"
      className="absolute right-3 bottom-[52px] w-[300px] rounded-md border border-edge bg-panel p-3.5"
      data-guide={done}
    >
      <div className="flex items-center gap-2">
        <h2 className="head grow text-[14px] leading-5">{step ? step.title : 'A glow of your own'}</h2>
        <span className="num text-muted">
          {Math.min(done + 1, STEPS.length)} of {STEPS.length}
        </span>
        <button className="plain" aria-label="Leave the guide" title="Leave the guide" onClick={onLeave}>
          <X size={14} strokeWidth={1.5} aria-hidden />
        </button>
      </div>
      <p role="status" className="mt-1 text-[12px] leading-[19px]">
        {step ? (
          step.says.split('`').map((part, k) => (k % 2 === 1 ? <kbd key={k}>{part}</kbd> : part))
        ) : (
          <>
            It is saved as you go. <kbd>?</kbd> lists the keys, <kbd>Ctrl K</kbd> does anything by its name, and <kbd>H</kbd> on a
            row says what it does.
          </>
        )}
      </p>
      <ol className="mt-2.5 flex gap-1.5">
        {STEPS.map(({ title }, k) => (
          <li
            key={title}
            title={title}
            className={`flex h-5 flex-1 items-center justify-center rounded-sm border text-[11px] ${
              k < done ? 'border-line bg-raised text-ink' : k === done ? 'border-edge text-ink' : 'border-line text-muted'
            }`}
          >
            {k < done ? <Check size={12} strokeWidth={2} aria-label={`${title}: done`} /> : k + 1}
          </li>
        ))}
      </ol>
    </section>
  );
}
