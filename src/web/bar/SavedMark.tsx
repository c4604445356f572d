/** Whether what is open is saved; where it is not, why, and what may be done. */
import { MonitorUp, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import { effectDifferences, stageDifferences } from '../../core/effect/differences.js';
import type { Effect } from '../../core/effect/schema.js';
import type { Stage } from '../../core/scene/stage.js';
import { useBench, useBenchState } from '../context.js';
import { PopoverContent } from '../ui/PopoverContent.js';

const MOST_DIFFERENCES = 14;
const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

function Trouble({ state, role = 'status', children }: { state: string; role?: 'status' | 'alert'; children: ReactNode }) {
  return (
    <span data-testid="saved" data-state={state} role={role} className="flex min-w-0 items-center gap-2">
      <TriangleAlert size={14} strokeWidth={1.5} className="shrink-0 text-caution" aria-hidden />
      {children}
    </span>
  );
}

export function SavedMark({ editHere }: { editHere: () => void }) {
  const session = useBench();
  const saved = useBenchState((s) => s.saved);
  const silentSince = useBenchState((s) => s.silentSince);
  const keeps = useBenchState((s) => s.keeps);
  const following = useBenchState((s) => s.following);
  const text = (words: string) => (
    <span data-testid="saved" data-state={saved.state} className="shrink-0 text-muted">
      {words}
    </span>
  );
  if (following)
    return (
      <span data-testid="saved" data-state="following" role="status" className="flex items-center gap-2">
        <MonitorUp size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        <span>Open in another tab; this one follows.</span>
        <button className="button" onClick={editHere}>
          Edit here
        </button>
      </span>
    );
  const since = saved.state === 'unreachable' ? saved.since : silentSince;
  if (since !== null && saved.state !== 'conflict' && saved.state !== 'refused') {
    const waiting = saved.state !== 'saved';
    const kept = keeps
      ? `${waiting ? 'Kept in this browser' : 'Changes are kept in this browser'} since ${clock.format(since)}.`
      : 'This browser keeps nothing: leave this tab open.';
    return (
      <Trouble state="unreachable">
        <span className="shrink-0">{waiting ? 'Not saved: the server does not answer.' : 'The server does not answer.'}</span>
        <span className="truncate text-muted">{kept}</span>
        <button className="button" onClick={() => void session.saving.now()}>
          Retry
        </button>
      </Trouble>
    );
  }
  switch (saved.state) {
    case 'saved':
      return text(`Saved ${clock.format(saved.at)}`);
    case 'unsaved':
      return text('Not saved yet');
    case 'saving':
      return text('Saving');
    case 'unreachable':
      return null;
    case 'refused':
      return (
        <span data-testid="saved" data-state="refused" role="alert" className="flex items-center gap-2">
          <TriangleAlert size={14} strokeWidth={1.5} className="text-fault" aria-hidden />
          <span className="max-w-[420px] truncate" title={saved.why}>
            Not saved: {saved.why}
          </span>
        </span>
      );
    case 'conflict':
      return (
        <span data-testid="saved" data-state="conflict" role="alert" className="flex items-center gap-2">
          <TriangleAlert size={14} strokeWidth={1.5} className="text-caution" aria-hidden />
          <span>The {saved.document} was changed elsewhere too.</span>
          <Both />
          <button
            className="button"
            onClick={() => session.saving.keepMine()}
            title="Save this one over the other, which stays as a revision"
          >
            Keep this one
          </button>
          <button
            className="button"
            title="Open the other; this one is stored as a copy"
            onClick={() => void session.saving.takeTheirs()}
          >
            Take the other
          </button>
        </span>
      );
  }
}

/** What the two versions of a conflict differ in. */
function Both() {
  const saved = useBenchState((s) => s.saved);
  const effect = useBenchState((s) => s.effect);
  const stage = useBenchState((s) => s.stage);
  if (saved.state !== 'conflict') return null;
  const { document, theirs } = saved;
  const found = document === 'effect' ? effectDifferences(effect, theirs as Effect) : stageDifferences(stage, theirs as Stage);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="button">Compare</button>
      </Popover.Trigger>
      <PopoverContent aria-label="This one, and the other" className="w-[380px] p-4" align="end" sideOffset={6}>
        <h2 className="head mb-1 text-[14px] leading-5">This one, and the other</h2>
        <ul className="text-[12px] leading-5">
          {found.slice(0, MOST_DIFFERENCES).map((f) => (
            <li key={f}>{f}</li>
          ))}
        </ul>
        {found.length === 0 && <p className="text-muted">They are alike.</p>}
        {found.length > MOST_DIFFERENCES && <p className="text-muted">And {found.length - MOST_DIFFERENCES} more.</p>}
      </PopoverContent>
    </Popover.Root>
  );
}
