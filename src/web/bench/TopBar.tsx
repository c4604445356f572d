/** Where we are, which variant is shown, whether it is saved, undo and redo. */
import { MonitorUp, Redo2, TextSearch, TriangleAlert, Undo2, X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { Link, useLocation } from 'react-router';
import { effectDifferences, stageDifferences } from '../../core/effect/differences.js';
import { renameEffect } from '../../core/effect/edits.js';
import type { Effect } from '../../core/effect/schema.js';
import type { Stage } from '../../core/scene/stage.js';
import { Wordmark } from '../ui/Wordmark.js';
import { Asides } from './Asides.js';
import { useBench, useBenchState } from '../context.js';
import { HistoryButton } from './history/HistoryPanel.js';
import { VariantMenu } from './VariantMenu.js';
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

function SavedMark({ editHere }: { editHere: () => void }) {
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

function Name() {
  const session = useBench();
  const name = useBenchState((s) => s.effect.name);
  const [typed, setTyped] = useState<string | null>(null);
  const done = (keep: boolean) => {
    if (keep && typed !== null) session.documents.edit('Rename the effect', (draft) => renameEffect(draft, { name: typed }));
    setTyped(null);
  };
  if (typed === null)
    return (
      <h1 className="head flex text-[15px] leading-5">
        <button className="max-w-[240px] truncate rounded-sm px-1" onClick={() => setTyped(name)} title="Rename">
          {name}
        </button>
      </h1>
    );
  return (
    <input
      className="field head h-6 w-[220px] px-1 text-[15px]"
      aria-label="Name of the effect"
      autoFocus
      value={typed}
      maxLength={120}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={() => done(true)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done(true);
        if (e.key === 'Escape') done(false);
      }}
    />
  );
}

/** Something that is said once, until it is closed. */
function Notice() {
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
function Asked() {
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

export function TopBar({ editHere, onPalette }: { editHere: () => void; onPalette: () => void }) {
  const session = useBench();
  const id = useBenchState((s) => s.effect.id);
  const { search } = useLocation();
  const variants = useBenchState((s) => s.effect.variants);
  const undo = useBenchState((s) => s.history.past[s.history.past.length - 1]?.label ?? null);
  const redo = useBenchState((s) => s.history.future[0]?.label ?? null);
  return (
    <header className="flex h-12 items-center gap-3 border-b border-line bg-panel pr-3 pl-4">
      <Wordmark />
      <nav className="ml-2 flex shrink-0 items-center gap-1" aria-label="Where you are">
        <Link to="/" className="rounded-sm px-1 text-muted hover:text-ink">
          Library
        </Link>
        <span className="text-edge">/</span>
        <Name />
      </nav>
      {variants.length > 0 && <VariantMenu />}
      <span className="grow" />
      <Asked />
      <Asides />
      <Notice />
      <SavedMark editHere={editHere} />
      <button
        className="plain h-7 w-7"
        onClick={onPalette}
        aria-label="Do something by its name"
        title="Do anything by its name  Ctrl K"
      >
        <TextSearch size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain h-7 w-7"
        onClick={() => session.documents.undo()}
        disabled={undo === null}
        aria-label={undo === null ? 'Undo' : `Undo: ${undo}`}
        title={undo === null ? 'Nothing to undo' : `Undo: ${undo}  Ctrl+Z`}
      >
        <Undo2 size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain h-7 w-7"
        onClick={() => session.documents.redo()}
        disabled={redo === null}
        aria-label={redo === null ? 'Redo' : `Redo: ${redo}`}
        title={redo === null ? 'Nothing to redo' : `Redo: ${redo}  Ctrl+Shift+Z`}
      >
        <Redo2 size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <HistoryButton />
      <Link className="button" to={`/effects/${id}/export${search}`}>
        Export
      </Link>
    </header>
  );
}
