/** The Library: the station's effects, and the ways to begin a new one. */
import { FolderInput, Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { importFile, newEmpty, newFromStarter, useEffects, useStarters, type EffectCard } from '../data/library.js';
import { Wordmark } from '../ui/Wordmark.js';

const changed = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

function Card({ effect }: { effect: EffectCard }) {
  return (
    <li>
      <Link
        to={`/effects/${effect.id}`}
        className="flex h-[92px] w-[296px] flex-col justify-between rounded-md border border-line bg-panel px-3 py-2.5 hover:border-edge"
      >
        <span className="flex items-baseline justify-between gap-3">
          <span className="head truncate text-[14px] leading-5">{effect.name}</span>
          <span className="num shrink-0 text-muted">{effect.loop === null ? 'runs on' : `${effect.loop.toFixed(1)} s`}</span>
        </span>
        <span className="flex items-end justify-between gap-3 text-[12px] leading-4 text-muted">
          <span className="truncate">{effect.tags.join(', ') || 'no tags yet'}</span>
          <time className="shrink-0" dateTime={effect.updatedAt}>
            {changed.format(new Date(effect.updatedAt))}
          </time>
        </span>
      </Link>
    </li>
  );
}

export function LibraryScreen() {
  const navigate = useNavigate();
  const effects = useEffects();
  const starters = useStarters();
  const [problem, setProblem] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = 'Library · Wispen';
  }, []);
  const begin = (make: () => Promise<string>) => {
    setProblem(null);
    make().then(
      (id) => navigate(`/effects/${id}`),
      (error: Error) => setProblem(error.message),
    );
  };
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-12 shrink-0 items-center gap-6 border-b border-line bg-panel px-4">
        <Wordmark />
        <span className="relative flex h-12 items-center font-medium after:absolute after:right-0 after:bottom-0 after:left-0 after:h-0.5 after:bg-ink">
          Library
        </span>
        <span className="grow" />
        <input
          ref={file}
          type="file"
          accept=".json,.wispen.json,application/json"
          className="hidden"
          aria-label="Effect file"
          onChange={(e) => {
            const chosen = e.currentTarget.files?.[0];
            if (chosen) begin(() => importFile(chosen));
            e.currentTarget.value = '';
          }}
        />
        <button className="plain px-2" onClick={() => file.current?.click()}>
          <FolderInput size={16} strokeWidth={1.5} aria-hidden />
          Import
        </button>
        <button className="button" onClick={() => begin(newEmpty)}>
          New empty
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button className="button border-edge">
              <Plus size={16} strokeWidth={1.5} aria-hidden />
              New from starter
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="menu w-[320px]" align="end" sideOffset={6}>
              {(starters.data ?? []).map((s) => (
                <DropdownMenu.Item
                  key={s.id}
                  className="menu-item flex-col items-start gap-0 py-1.5 whitespace-normal"
                  onSelect={() => begin(() => newFromStarter(s.id))}
                >
                  <span className="font-medium">{s.name}</span>
                  <span className="text-[12px] leading-4 text-muted">{s.note}</span>
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </header>
      <main className="scroll grow overflow-y-auto px-6 py-5">
        <div className="mb-5 flex items-baseline gap-3">
          <h1 className="head text-[24px] leading-8">Sallowmere Station</h1>
          {effects.data && (
            <span className="text-muted">{effects.data.length === 1 ? '1 effect' : `${effects.data.length} effects`}</span>
          )}
        </div>
        {problem && (
          <p role="alert" className="mb-4 border-l-2 border-fault py-1 pl-3 text-fault">
            {problem}
          </p>
        )}
        {effects.error && (
          <p role="alert" className="mb-4 flex items-center gap-3 border-l-2 border-caution py-1 pl-3">
            The effects cannot be listed: the server does not answer.
            <button className="button" onClick={() => void effects.mutate()}>
              Retry
            </button>
          </p>
        )}
        {effects.data?.length === 0 && (
          <p className="text-muted">Nothing here yet. Begin with an empty sheet, or with a starter.</p>
        )}
        <ul className="flex flex-wrap gap-4">
          {(effects.data ?? []).map((e) => (
            <Card key={e.id} effect={e} />
          ))}
        </ul>
      </main>
    </div>
  );
}
