/** The Stage room: all that stands on a stage at the left, the picture, and the settings of what is chosen at the right. */
import { useEffect, useRef, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { Bench } from '../../session/bench.js';
import { Sayings } from '../bar/Said.js';
import { SavedMark } from '../bar/SavedMark.js';
import { UndoRedo } from '../bar/UndoRedo.js';
import { Failed } from '../bench/Failed.js';
import { BenchProvider, useBench, useBenchState } from '../context.js';
import { useStages } from '../data/library.js';
import { Dropper } from '../stage/Dropper.js';
import { isTaken, pictureKey, undoKey } from '../documentKeys.js';
import { Guarded } from '../ui/Guarded.js';
import { NameField } from '../ui/NameField.js';
import { Wordmark } from '../ui/Wordmark.js';
import { useLeaving, useOpenBench } from '../useOpenBench.js';
import type { Chosen } from './chosen.js';
import { RoomList } from './RoomList.js';
import { RoomPicture } from './RoomPicture.js';
import { Settings } from './Settings.js';

/**
 * The effect whose bench shares this stage: the one that was come from, or the first that stands there. Settled once:
 * a list that is fetched again opens nothing anew.
 */
function useCompany(id: string): { readonly effect: string | null } | null {
  const [search] = useSearchParams();
  const stages = useStages();
  const asked = search.get('effect');
  const known = stages.data?.find((s) => s.id === id);
  const settled = useRef<{ readonly id: string; readonly effect: string | null } | null>(null);
  if (settled.current?.id !== id) {
    settled.current = null;
    if (asked !== null || stages.data !== undefined || stages.error !== undefined)
      settled.current = { id, effect: asked ?? known?.home ?? null };
  }
  return settled.current;
}

export function StageRoom() {
  const { id } = useParams();
  const [attempt, setAttempt] = useState(0);
  const company = useCompany(id!);
  const { session, failure, editHere, reopening } = useOpenBench(
    company && (company.effect ?? `stage ${id!}`),
    (options) => Bench.openStage(id!, company!.effect, options),
    attempt,
  );
  if (failure) return <Failed failure={failure} id={id!} onRetry={() => setAttempt((n) => n + 1)} />;
  if (!session)
    return (
      <header className="flex h-12 items-center border-b border-line bg-panel px-4">
        <Wordmark />
      </header>
    );
  return (
    <BenchProvider value={session}>
      <Dropper>
        <OpenRoom editHere={editHere} company={company!.effect} inert={reopening} />
      </Dropper>
    </BenchProvider>
  );
}

/** Keys that act from anywhere in the room where nothing is being typed. */
function useRoomKeys(): void {
  const session = useBench();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!undoKey(session, event) && !isTaken(event)) pictureKey(session, event);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [session]);
}

/** What stands beside the picture; under it, each in a height of its own, where there is little room. */
const SIDE = 'grid min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)] small:h-[340px] small:shrink-0';

function OpenRoom({ editHere, company, inert }: { editHere: () => void; company: string | null; inert: boolean }) {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const { name } = stage;
  const following = useBenchState((s) => s.following);
  const [chosen, setChosen] = useState<Chosen>({ kind: 'prop' });
  const bringing = useRef<(files: readonly File[]) => void>(() => undefined);
  useEffect(() => {
    document.title = `${name} · Wispen`;
  }, [name]);
  useRoomKeys();
  useLeaving();
  const choose = (next: Chosen) => {
    // Another thing in hand is not painted.
    session.painting.end();
    setChosen(next);
  };
  return (
    <main
      inert={inert}
      className="grid h-full grid-cols-[240px_minmax(0,1fr)_296px] grid-rows-[48px_minmax(0,1fr)] small:flex small:flex-col small:overflow-y-auto"
    >
      <Bar editHere={editHere} company={company} />
      <div className={`${SIDE} small:order-3`} inert={following}>
        <Guarded name="The list" keys={[stage]}>
          <RoomList chosen={chosen} onChoose={choose} onFile={(files) => bringing.current(files)} />
        </Guarded>
      </div>
      <Guarded name="The stage" keys={[stage]}>
        <RoomPicture chosen={chosen} onChoose={choose} bringing={bringing} />
      </Guarded>
      <div className={`${SIDE} small:order-2`} inert={following}>
        <Guarded name="The settings" keys={[stage, chosen]}>
          <Settings chosen={chosen} />
        </Guarded>
      </div>
    </main>
  );
}

function Bar({ editHere, company }: { editHere: () => void; company: string | null }) {
  const { documents } = useBench();
  const name = useBenchState((s) => s.stage.name);
  const [naming, setNaming] = useState(false);
  return (
    <header className="col-span-3 flex h-12 items-center gap-3 border-b border-line bg-panel pr-3 pl-4 small:h-auto small:min-h-12 small:shrink-0 small:flex-wrap small:gap-y-1 small:py-1.5">
      <Wordmark />
      <nav className="ml-2 flex min-w-0 shrink-0 items-center gap-1" aria-label="Where you are">
        <Link to="/stages" className="rounded-sm px-1 text-muted hover:text-ink">
          Stages
        </Link>
        <span className="text-edge">/</span>
        {naming ? (
          <NameField
            label="Name of the stage"
            was={name}
            onName={(typed) => {
              setNaming(false);
              if (typed) documents.editStage('Rename the stage', (d) => void (d.name = typed));
            }}
            onLeave={() => setNaming(false)}
          />
        ) : (
          <h1 className="head flex min-w-0 text-[15px] leading-5">
            <button className="max-w-[300px] truncate rounded-sm px-1" title="Rename" onClick={() => setNaming(true)}>
              {name}
            </button>
          </h1>
        )}
      </nav>
      <span className="grow" />
      <Sayings beside={296} />
      <SavedMark editHere={editHere} />
      <UndoRedo />
      {company !== null && (
        <Link className="button" to={`/effects/${company}`}>
          Open in Bench
        </Link>
      )}
    </header>
  );
}
