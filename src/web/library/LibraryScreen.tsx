/** The Library: the station's effects, finding one among them, and the ways to begin a new one. */
import { Archive, FolderInput, Plus, Search } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { useDropzone } from 'react-dropzone';
import { useNavigate, useSearchParams } from 'react-router';
import { importAll, importFile, newEmpty, newFromStarter } from '../../session/exports.js';
import { useEffects, useStarters, type EffectCard } from '../data/library.js';
import { SharedDials } from './SharedDials.js';
import { Select } from '../ui/Select.js';
import { Places } from '../ui/Places.js';
import { Wordmark } from '../ui/Wordmark.js';
import { Card } from './Card.js';
import { SORTS, sift, tagsOf, type Sort } from './sift.js';
import { useStrips } from './useStrips.js';
import { MenuContent } from '../ui/Menu.js';

function Tag({ on, count, children, onChoose }: { on: boolean; count: number; children: ReactNode; onChoose: () => void }) {
  return (
    <button
      aria-pressed={on}
      onClick={onChoose}
      className={`flex h-[26px] items-center gap-2 whitespace-nowrap rounded-md border px-2.5 ${on ? 'border-edge bg-raised font-medium' : 'border-line hover:border-edge'}`}
    >
      {children} <span className="num font-normal text-muted">{count}</span>
    </button>
  );
}

/** What is looked for, as the address has it. */
function useFinding() {
  const [params, setParams] = useSearchParams();
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
  return {
    typed,
    archived: params.has('archived'),
    tag: params.get('tag'),
    sort: SORTS.find((s) => s.id === params.get('sort'))?.id ?? ('changed' satisfies Sort),
    set,
    find: (text: string) => {
      setTyped(text);
      set('find', text);
    },
  };
}
type Finding = ReturnType<typeof useFinding>;

export function LibraryScreen() {
  const navigate = useNavigate();
  const effects = useEffects();
  const stripOf = useStrips(effects.data);
  const finding = useFinding();
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    document.title = 'Library · Wispen';
  }, []);
  const begin = (make: () => Promise<string>, how = '') => {
    setProblem(null);
    make().then(
      (id) => navigate(`/effects/${id}${how}`),
      (error: Error) => setProblem(error.message),
    );
  };
  const change = (work: () => Promise<unknown>) => {
    setProblem(null);
    work()
      .catch((error: Error) => setProblem(error.message))
      .finally(() => void effects.mutate());
  };
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) =>
      files.length === 1 ? begin(() => importFile(files[0]!)) : files.length > 1 && change(() => importAll(files)),
  });
  const { typed, tag, sort, archived } = finding;
  const all = effects.data ?? [];
  const here = all.filter((e) => e.archived === archived);
  const shown = sift(all, { search: typed, tag, sort, archived });
  return (
    <div {...getRootProps({ role: undefined, tabIndex: undefined })} className="flex h-full flex-col small:overflow-y-auto">
      {isDragActive && (
        <p className="pointer-events-none fixed inset-3 z-40 flex items-center justify-center rounded-md border border-edge bg-base/80">
          Drop bundles or effect files to bring them in
        </p>
      )}
      <Head onImport={open} onBegin={begin} />
      <main className="scroll grow overflow-y-auto pt-3 pr-4 pb-6 pl-6 [scrollbar-gutter:stable] small:shrink-0 small:overflow-visible small:pr-3 small:pl-3">
        <input
          {...getInputProps({ 'aria-label': 'Bundle or effect file', accept: '.wispen,.json,application/json,application/zip' })}
        />
        <Finder finding={finding} shown={shown.length} here={effects.data ? here.length : null} />
        <Tags finding={finding} here={here} away={all.length - here.length} />
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
        {effects.data && shown.length === 0 && (here.length > 0 || archived) && (
          <p className="text-muted">{nothingWords(here.length > 0)}</p>
        )}
        {effects.data && here.length === 0 && !archived && <FirstRun onBegin={begin} onImport={open} />}
        <ul className="flex flex-wrap gap-x-4 gap-y-3">
          {shown.map((e) => (
            <Card key={e.id} effect={e} strip={stripOf(e)} onDo={change} />
          ))}
        </ul>
      </main>
    </div>
  );
}

function nothingWords(hasSome: boolean): string {
  if (hasSome) return 'Nothing here is found by that.';
  return 'Nothing is archived.';
}

/** Makes an effect and opens it. @param how more of its address */
type Begin = (make: () => Promise<string>, how?: string) => void;
const GUIDED = '?guide=1';

/** Where nothing is yet: the ways to begin, said and done. */
function FirstRun({ onBegin, onImport }: { onBegin: Begin; onImport: () => void }) {
  const starters = useStarters();
  return (
    <section aria-label="Begin" className="max-w-[1000px]">
      <p className="mb-4 text-muted">
        Nothing here yet. Effects are built here from named steps, each with its picture; whatever is made is saved as you go.
      </p>
      <div className="grid grid-cols-3 gap-3 small:grid-cols-1">
        <Way
          title="Guided start"
          text="A glow in five steps, on a sheet of your own."
          onChoose={() => onBegin(newEmpty, GUIDED)}
        />
        <Way title="Empty sheet" text="A ball on a lit stage, and nothing on it." onChoose={() => onBegin(newEmpty)} />
        <Way title="A file" text="A bundle, .wispen, or an effect, .wispen.json." onChoose={onImport} />
      </div>
      <h2 className="head mt-5 mb-2 text-[14px] leading-5">Or from a starter</h2>
      <div className="grid grid-cols-3 gap-3 small:grid-cols-1">
        {(starters.data ?? []).map((s) => (
          <Way key={s.id} title={s.name} text={s.note} onChoose={() => onBegin(() => newFromStarter(s.id))} />
        ))}
      </div>
    </section>
  );
}

function Way({ title, text, onChoose }: { title: string; text: string; onChoose: () => void }) {
  return (
    <button
      className="flex flex-col rounded-md border border-line bg-panel px-3.5 py-3 text-left hover:border-edge"
      onClick={onChoose}
    >
      <span className="block font-medium">{title}</span>
      <span className="block text-[12px] leading-4 text-muted">{text}</span>
    </button>
  );
}

/** The bar on top: where this is, and the ways to begin. */
function Head({ onImport, onBegin }: { onImport: () => void; onBegin: Begin }) {
  const starters = useStarters();
  return (
    <header className="flex h-12 shrink-0 items-center gap-6 border-b border-line bg-panel pr-3 pl-4 small:h-auto small:flex-wrap small:gap-x-4 small:gap-y-0">
      <Wordmark />
      <Places here="Library" />
      <span className="grow" />
      <span className="flex items-center gap-3 small:flex-wrap small:gap-y-1 small:pb-1.5">
        <button className="plain px-2" onClick={onImport} title="A bundle, .wispen, or an effect file, .wispen.json">
          <FolderInput size={16} strokeWidth={1.5} aria-hidden />
          Import
        </button>
        <button
          className="plain px-2"
          onClick={() => onBegin(newEmpty, GUIDED)}
          title="Five steps on a sheet of your own; it can be left at any time"
        >
          Guided start
        </button>
        <button className="button" onClick={() => onBegin(newEmpty)}>
          New empty
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button className="button border-edge">
              <Plus size={16} strokeWidth={1.5} aria-hidden />
              New from starter
            </button>
          </DropdownMenu.Trigger>
          <MenuContent className="w-[340px]" align="end" sideOffset={6}>
            {(starters.data ?? []).map((s) => (
              <DropdownMenu.Item
                key={s.id}
                className="menu-item flex-col items-start gap-0 py-1.5 whitespace-normal"
                onSelect={() => onBegin(() => newFromStarter(s.id))}
              >
                <span className="font-medium">{s.name}</span>
                <span className="text-[12px] leading-4 text-muted">{s.note}</span>
              </DropdownMenu.Item>
            ))}
          </MenuContent>
        </DropdownMenu.Root>
      </span>
    </header>
  );
}

/** Searching and sorting. @param here null while it is not known */
function Finder({ finding, shown, here }: { finding: Finding; shown: number; here: number | null }) {
  const { typed, archived, sort, find, set } = finding;
  const search = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event;
      const elsewhere =
        target instanceof HTMLElement && (target.matches('input, textarea') || target.closest('[role="menu"], [role="listbox"]'));
      if (event.key.toLowerCase() !== 'f' || elsewhere || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      search.current?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <div className="flex h-8 items-center gap-3 small:h-auto small:flex-wrap small:gap-y-2">
      <h1 className="head text-[24px] leading-8">{archived ? 'Archived' : 'Sallowmere Station'}</h1>
      {here !== null && (
        <span className="text-muted">
          {shown < here ? `${shown} of ` : ''}
          {here === 1 ? '1 effect' : `${here} effects`}
        </span>
      )}
      <span className="grow" />
      <label className="flex h-8 w-[300px] items-center small:min-w-0 small:shrink gap-2 rounded-md border border-edge bg-base px-2.5 focus-within:outline-2 focus-within:outline-offset-1 focus-within:outline-wisp">
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
  );
}

/** Tags that narrow the list, and the way to what is archived. @param away how many effects the other list has */
function Tags({ finding, here, away }: { finding: Finding; here: readonly EffectCard[]; away: number }) {
  const { tag, archived, set } = finding;
  return (
    <div className="mt-3 mb-3.5 flex items-start gap-2 small:flex-wrap">
      <div role="group" aria-label="Tags" className="flex grow flex-wrap gap-2">
        <Tag on={tag === null} count={here.length} onChoose={() => set('tag', null)}>
          All
        </Tag>
        {tagsOf(here).map(({ tag: name, count }) => (
          <Tag key={name} on={tag === name} count={count} onChoose={() => set('tag', tag === name ? null : name)}>
            {name}
          </Tag>
        ))}
      </div>
      <div className="flex shrink-0 items-center gap-2 whitespace-nowrap">
        <SharedDials />
        <button
          className="plain px-2 aria-pressed:text-ink"
          aria-pressed={archived}
          onClick={() => set('archived', archived ? null : '1')}
        >
          <Archive size={14} strokeWidth={1.5} aria-hidden />
          {archived ? 'Back to the Library' : 'Archived'} <span className="num">{away}</span>
        </button>
      </div>
    </div>
  );
}
