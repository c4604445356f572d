/** Where we are, which variant is shown, whether it is saved, undo and redo. */
import { TextSearch } from 'lucide-react';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import { renameEffect } from '../../core/effect/edits.js';
import { Wordmark } from '../ui/Wordmark.js';
import { Sayings } from '../bar/Said.js';
import { SavedMark } from '../bar/SavedMark.js';
import { UndoRedo } from '../bar/UndoRedo.js';
import { useBench, useBenchState } from '../context.js';
import { HistoryButton } from './history/HistoryPanel.js';
import { VariantMenu } from './VariantMenu.js';

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

export function TopBar({ editHere, onPalette }: { editHere: () => void; onPalette: () => void }) {
  const id = useBenchState((s) => s.effect.id);
  const { search } = useLocation();
  const variants = useBenchState((s) => s.effect.variants);
  return (
    <header className="flex h-12 items-center gap-3 border-b border-line bg-panel pr-3 pl-4 small:h-auto small:min-h-12 small:flex-wrap small:gap-y-1 small:py-1.5">
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
      <Sayings />
      <SavedMark editHere={editHere} />
      <button
        className="plain h-7 w-7"
        onClick={onPalette}
        aria-label="Do something by its name"
        title="Do anything by its name  Ctrl K"
      >
        <TextSearch size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <UndoRedo />
      <HistoryButton />
      <Link className="button" to={`/effects/${id}/export${search}`}>
        Export
      </Link>
    </header>
  );
}
