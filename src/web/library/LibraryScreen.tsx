/** The Library: the station's effects, finding one among them, and the ways to begin a new one. */
import { Archive, FolderInput, Plus, Search } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { importFile, newEmpty, newFromStarter } from '../../session/exports.js';
import { useEffects, useStarters } from '../data/library.js';
import { Select } from '../ui/Select.js';
import { Wordmark } from '../ui/Wordmark.js';
import { Card } from './Card.js';
import { SORTS, sift, tagsOf, type Sort } from './sift.js';
import { useStrips } from './useStrips.js';

function Tag({ on, count, children, onChoose }: { on: boolean; count: number; children: ReactNode; onChoose: () => void }) {
  return (
    <button
      aria-pressed={on}
      onClick={onChoose}
      className={`flex h-[26px] items-center gap-2 rounded-md border px-2.5 ${on ? 'border-edge bg-raised font-medium' : 'border-line hover:border-edge'}`}
    >
      {children} <span className="num font-normal text-muted">{count}</span>
    </button>
  );
}

export function LibraryScreen() {
  const navigate = useNavigate();
  const effects = useEffects();
  const starters = useStarters();
  const stripOf = useStrips(effects.data);
  const [params, setParams] = useSearchParams();
  const [problem, setProblem] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const archived = params.has('archived');
  const tag = params.get('tag');
  const sort = SORTS.find((s) => s.id === params.get('sort'))?.id ?? ('changed' satisfies Sort);
  // The address follows what is typed, not the other way round: a busy page would lose letters on the way.
  const [typed, setTyped] = useState(params.get('find') ?? '');
  const set = (name: string, value: string | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === null || value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const find = (text: string) => {
    setTyped(text);
    set('find', text);
  };
  useEffect(() => {
    document.title = 'Library · Wispen';
    const onKey = (event: KeyboardEvent) => {
      const { target } = event;
      const elsewhere = target instanceof HTMLElement && (target.matches('input, textarea') || target.closest('[role="menu"]'));
      if (event.key.toLowerCase() !== 'f' || elsewhere || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      search.current?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const begin = (make: () => Promise<string>) => {
    setProblem(null);
    make().then(
      (id) => navigate(`/effects/${id}`),
      (error: Error) => setProblem(error.message),
    );
  };
  const change = (work: () => Promise<unknown>) => {
    setProblem(null);
    work()
      .catch((error: Error) => setProblem(error.message))
      .finally(() => void effects.mutate());
  };
  const all = effects.data ?? [];
  const here = all.filter((e) => e.archived === archived);
  const shown = sift(all, { search: typed, tag, sort, archived });
  const away = all.filter((e) => e.archived).length;
  return (
    <div
      className="flex h-full flex-col"
      onDragOver={(e) => {
        if (![...e.dataTransfer.items].some((i) => i.kind === 'file')) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const [dropped] = e.dataTransfer.files;
        if (dropped) begin(() => importFile(dropped));
      }}
    >
      {over && (
        <p className="pointer-events-none fixed inset-3 z-40 flex items-center justify-center rounded-md border border-edge bg-base/80">
          Drop a bundle or an effect file to bring it in
        </p>
      )}
      <header className="flex h-12 shrink-0 items-center gap-6 border-b border-line bg-panel pr-3 pl-4">
        <Wordmark />
        <span className="relative flex h-12 items-center font-medium after:absolute after:right-0 after:bottom-0 after:left-0 after:h-0.5 after:bg-ink">
          Library
        </span>
        <span className="grow" />
        <span className="flex items-center gap-3">
          <input
            ref={file}
            type="file"
            accept=".wispen,.json,application/json,application/zip"
            className="hidden"
            aria-label="Bundle or effect file"
            onChange={(e) => {
              const chosen = e.currentTarget.files?.[0];
              if (chosen) begin(() => importFile(chosen));
              e.currentTarget.value = '';
            }}
          />
          <button
            className="plain px-2"
            onClick={() => file.current?.click()}
            title="A bundle, .wispen, or an effect file, .wispen.json"
          >
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
              <DropdownMenu.Content className="menu w-[340px]" align="end" sideOffset={6}>
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
        </span>
      </header>
      <main className="scroll grow overflow-y-auto px-6 pt-3 pb-6">
        <div className="flex h-8 items-center gap-3">
          <h1 className="head text-[24px] leading-8">{archived ? 'Archived' : 'Sallowmere Station'}</h1>
          {effects.data && (
            <span className="text-muted">
              {shown.length < here.length ? `${shown.length} of ` : ''}
              {here.length === 1 ? '1 effect' : `${here.length} effects`}
            </span>
          )}
          <span className="grow" />
          <label className="flex h-8 w-[300px] items-center gap-2 rounded-md border border-edge bg-base px-2.5 focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-wisp">
            <Search size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
            <input
              ref={search}
              type="search"
              className="min-w-0 grow bg-transparent outline-none placeholder:text-muted [&::-webkit-search-cancel-button]:hidden"
              aria-label="Search names, tags, strands"
              placeholder="Search names, tags, strands"
              value={typed}
              onChange={(e) => find(e.currentTarget.value)}
              onKeyDown={(e) => {
                if (e.key !== 'Escape') return;
                if (typed === '') e.currentTarget.blur();
                else find('');
              }}
            />
            <kbd>F</kbd>
          </label>
          <Select
            label="Sort"
            className="button min-h-8"
            value={sort}
            choices={SORTS}
            onChoose={(id) => set('sort', id === 'changed' ? null : id)}
            prefix={<span className="text-muted">Sort</span>}
          />
        </div>
        <div className="mt-3 mb-3.5 flex items-center gap-2">
          <div role="group" aria-label="Tags" className="flex flex-wrap gap-2">
            <Tag on={tag === null} count={here.length} onChoose={() => set('tag', null)}>
              All
            </Tag>
            {tagsOf(here).map(({ tag: name, count }) => (
              <Tag key={name} on={tag === name} count={count} onChoose={() => set('tag', tag === name ? null : name)}>
                {name}
              </Tag>
            ))}
          </div>
          <span className="grow" />
          <button
            className="plain px-2 aria-pressed:text-ink"
            aria-pressed={archived}
            onClick={() => set('archived', archived ? null : '1')}
          >
            <Archive size={14} strokeWidth={1.5} aria-hidden />
            {archived ? 'Back to the Library' : 'Archived'} <span className="num">{archived ? all.length - away : away}</span>
          </button>
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
        {effects.data && shown.length === 0 && (
          <p className="text-muted">
            {here.length > 0
              ? 'Nothing here is found by that.'
              : archived
                ? 'Nothing is archived.'
                : 'Nothing here yet. Begin with an empty sheet, or with a starter.'}
          </p>
        )}
        <ul className="flex flex-wrap gap-x-4 gap-y-3">
          {shown.map((e) => (
            <Card key={e.id} effect={e} strip={stripOf(e)} onDo={change} />
          ))}
        </ul>
      </main>
    </div>
  );
}
