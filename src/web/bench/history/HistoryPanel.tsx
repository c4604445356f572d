/** The history of the effect: its steps, to go to; its revisions, to see, name and restore; its variants, to hold against. */
import { History, Pencil, RotateCcw } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useMemo, useState, type ReactNode } from 'react';
import useSWR from 'swr';
import { inVariant } from '../../../core/scene/wearing.js';
import { statesOf } from '../../../session/documents.js';
import { listRevisions, loadRevision, nameRevision, revisionsPath, type Revision } from '../../../session/revisions.js';
import { ownKeys } from '../../ui/keys.js';
import { NameField } from '../../ui/NameField.js';
import { useBench, useBenchState } from '../../context.js';
import { HoldToSee } from './HoldToSee.js';
import { Thumbnail } from './Thumbnail.js';
import { PopoverContent } from '../../ui/PopoverContent.js';

/** Steps that are listed, each way from where one is. */
const MOST_STEPS = 60;
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });
const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const when = (date: Date) =>
  date.toDateString() === new Date().toDateString() ? clock.format(date) : `${day.format(date)}, ${clock.format(date)}`;

export function HistoryButton() {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="plain h-7 w-7" aria-label="History" title="Steps, revisions, and variants to hold against">
          <History size={16} strokeWidth={1.5} aria-hidden />
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label="History"
        className="scroll max-h-(--radix-popover-content-available-height) w-[356px] p-3"
        align="end"
        sideOffset={6}
        collisionPadding={12}
        onKeyDown={ownKeys}
      >
        <Steps />
        <Revisions />
        <Variants />
      </PopoverContent>
    </Popover.Root>
  );
}

function Part({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section className="mb-3 last:mb-0">
      <div className="mb-1 flex items-center justify-between gap-2">
        <h3 className="head text-[13px] leading-5">{title}</h3>
        {aside}
      </div>
      {children}
    </section>
  );
}

/** The latest first; those that were taken back stand above where one is. */
function Steps() {
  const session = useBench();
  const history = useBenchState((s) => s.history);
  const here = history.past.length;
  const labels = [...history.past, ...history.future].map((s) => s.label);
  const [low, high] = [Math.max(0, here - MOST_STEPS), Math.min(labels.length, here + MOST_STEPS)];
  const states = useMemo(() => {
    const both = session.documents.both;
    return new Map([...statesOf(both, history, low), ...statesOf(both, history, high)]);
  }, [session, history, low, high]);
  const counts = Array.from({ length: high - low + 1 }, (_, k) => high - k);
  return (
    <Part title="Steps" aside={<span className="text-[12px] text-muted">{here === 1 ? '1 step' : `${here} steps`}</span>}>
      <ul className="scroll max-h-[236px] overflow-y-auto">
        {counts.map((done) => (
          <li key={done}>
            <button
              className={`flex w-full items-center gap-2.5 rounded-sm px-1 py-0.5 text-left hover:bg-raised ${
                done === here ? 'bg-raised shadow-[inset_0_0_0_1px_var(--color-edge)]' : done > here ? 'text-muted' : ''
              }`}
              aria-current={done === here ? 'step' : undefined}
              onClick={() => session.documents.goTo(done)}
            >
              <Thumbnail of={() => Promise.resolve(states.get(done) ?? null)} version={states.get(done)} />
              <span className="min-w-0 truncate">{done === 0 ? 'Before the first step' : labels[done - 1]}</span>
              <span className="ml-auto shrink-0 text-[12px] text-muted">
                {done === here ? 'now' : done > here ? 'taken back' : ''}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </Part>
  );
}

function Revisions() {
  const session = useBench();
  const id = useBenchState((s) => s.effect.id);
  const following = useBenchState((s) => s.following);
  const saved = useBenchState((s) => (s.saved.state === 'saved' ? s.saved.at.getTime() : 0));
  const { data, error, mutate } = useSWR<Revision[], Error>([revisionsPath(id), saved], () => listRevisions(id), {
    keepPreviousData: true,
  });
  const [naming, setNaming] = useState<number | null>(null);
  const tell = (failure: Error) => session.store.setState({ notice: failure.message });
  const name = async (revision: number, words: string | null) => {
    setNaming(null);
    await nameRevision(id, revision, words).then(() => mutate(), tell);
  };
  /** What is on the bench is saved first: the name is given to that. */
  const nameThis = async () => {
    await session.saving.now();
    const list = (await mutate()) ?? [];
    if (list[0]) setNaming(list[0].id);
  };
  const restore = (revision: Revision) =>
    loadRevision(id, revision.id).then(
      (effect) => session.documents.restore(`Restore ${revision.name ?? when(revision.savedAt)}`, effect),
      tell,
    );
  return (
    <Part
      title="Revisions"
      aside={
        <button className="button min-h-6 text-[12px]" disabled={following} onClick={() => void nameThis()}>
          Name what is here now
        </button>
      }
    >
      {error && <p className="text-muted">The revisions cannot be listed. {error.message}</p>}
      <ul className="scroll max-h-[236px] overflow-y-auto">
        {(data ?? []).map((r) => (
          <RevisionRow
            key={r.id}
            revision={r}
            naming={naming === r.id}
            onNaming={(on) => setNaming(on ? r.id : null)}
            onName={(given) => void name(r.id, given === '' ? null : given)}
            onRestore={() => void restore(r)}
          />
        ))}
      </ul>
      {data?.length === 0 && <p className="text-muted">Nothing has been saved yet.</p>}
    </Part>
  );
}

interface RevisionRowProps {
  readonly revision: Revision;
  readonly naming: boolean;
  readonly onNaming: (on: boolean) => void;
  /** @param name an empty one takes it away */
  readonly onName: (name: string) => void;
  readonly onRestore: () => void;
}

function RevisionRow({ revision, naming, onNaming, onName, onRestore }: RevisionRowProps) {
  const session = useBench();
  const following = useBenchState((s) => s.following);
  const of = useBenchState((s) => s.effect.id);
  const { id, name, open, savedAt } = revision;
  const words = name ?? (open ? 'This sitting' : 'A sitting');
  const then = () => loadRevision(of, id);
  return (
    <li className="flex items-center gap-2.5 px-1 py-0.5" data-revision={id}>
      <Thumbnail
        of={() => then().then((effect) => ({ effect, stage: session.store.getState().stage }))}
        version={savedAt.getTime()}
      />
      {naming ? (
        <NameField label="Name of the revision" was={name ?? ''} onName={onName} onLeave={() => onNaming(false)} />
      ) : (
        <span className="min-w-0 grow">
          <span className={`block truncate leading-[18px] ${name === null ? '' : 'font-medium'}`}>{words}</span>
          <span className="block text-[12px] leading-4 text-muted">{when(savedAt)}</span>
        </span>
      )}
      <HoldToSee of={() => then().then((effect) => ({ effect }))} what={words} />
      <button
        className="plain"
        aria-label={`Name ${words}`}
        title={name === null ? 'Name it: it is kept for good then' : 'Another name; an empty one takes it away'}
        disabled={following}
        onClick={() => onNaming(true)}
      >
        <Pencil size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain"
        aria-label={`Restore ${words}`}
        title="Makes the effect what it was then; undo takes it back"
        disabled={following}
        onClick={onRestore}
      >
        <RotateCcw size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </li>
  );
}

/** How what wears the effect would look in another variant, without own values. */
function Variants() {
  const session = useBench();
  const variants = useBenchState((s) => s.effect.variants);
  const shown = useBenchState((s) => s.variant);
  if (variants.length === 0) return null;
  const all = [{ id: null, name: 'Base' }, ...variants].filter((v) => v.id !== shown);
  return (
    <Part title="Variants">
      <ul>
        {all.map((v) => (
          <li key={v.id ?? ''} className="flex items-center gap-2.5 px-1">
            <span className="grow truncate">{v.name}</span>
            <HoldToSee
              what={v.name}
              of={() => {
                const { effect, stage } = session.store.getState();
                return Promise.resolve({ stage: inVariant(stage, effect, v.id) });
              }}
            />
          </li>
        ))}
      </ul>
    </Part>
  );
}
