/** The Bench: sheet on the left, stage on the right, time and dials under it. */
import { useEffect, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { NotThere } from '../../session/api.js';
import { BenchSession } from '../../session/bench.js';
import { FIRST_STAGE } from '../data/library.js';
import { NotFound } from '../NotFound.js';
import { Wordmark } from '../ui/Wordmark.js';
import { BenchProvider, useBench, useBenchState } from './context.js';
import { Deck } from './Deck.js';
import { Sheet } from './sheet/Sheet.js';
import { StageView } from './StageView.js';
import { TimeBar } from './TimeBar.js';
import { TopBar } from './TopBar.js';

export function BenchScreen() {
  const { id } = useParams();
  const [search] = useSearchParams();
  const [session, setSession] = useState<BenchSession | null>(null);
  const [failure, setFailure] = useState<{ message: string; gone: boolean } | null>(null);
  const [attempt, setAttempt] = useState(0);
  const frozen = search.get('clock') === 'frozen';
  const start = Number(search.get('t') ?? 0) || 0;
  useEffect(() => {
    let opened: BenchSession | null = null;
    let left = false;
    setFailure(null);
    BenchSession.open(id!, { frozen, time: start, fallbackStage: FIRST_STAGE }).then(
      (s) => {
        opened = s;
        if (left) void s.close();
        else setSession(s);
      },
      (error: Error) =>
        setFailure({
          message: error instanceof NotThere ? 'There is no effect at this address.' : error.message,
          gone: error instanceof NotThere,
        }),
    );
    return () => {
      left = true;
      setSession(null);
      void opened?.close();
    };
    // The time in the address is where playing starts; it does not follow later.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, attempt]);

  if (failure?.gone) return <NotFound message={failure.message} />;
  if (failure)
    return (
      <div className="flex h-full flex-col items-center justify-center gap-4">
        <p role="alert">This effect cannot be opened: the server does not answer.</p>
        <button className="button" onClick={() => setAttempt((n) => n + 1)}>
          Retry
        </button>
      </div>
    );
  if (!session)
    return (
      <header className="flex h-12 items-center border-b border-line bg-panel px-4">
        <Wordmark />
      </header>
    );
  return (
    <BenchProvider value={session}>
      <Bench />
    </BenchProvider>
  );
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches('input, textarea') || target.isContentEditable);

function Bench() {
  const session = useBench();
  const name = useBenchState((s) => s.effect.name);
  const bare = useBenchState((s) => s.bare);
  useEffect(() => {
    document.title = `${name} · Wispen`;
  }, [name]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if ((event.ctrlKey || event.metaKey) && (key === 'z' || key === 'y')) {
        event.preventDefault();
        if (key === 'y' || event.shiftKey) session.redo();
        else session.undo();
        return;
      }
      if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      const onControl =
        event.target instanceof HTMLElement &&
        event.target.closest('button, [role="slider"], [role="menuitem"], [role="tab"], a');
      if (event.key === ' ' && !onControl) {
        event.preventDefault();
        if (session.clock.playing) session.clock.pause();
        else session.clock.play();
      } else if (event.key === '\\') session.store.setState((s) => ({ bare: !s.bare }));
      else if (event.key === "'") session.setRaw(!session.store.getState().raw);
    };
    window.addEventListener('keydown', onKey);
    const onLeave = (event: BeforeUnloadEvent) => {
      // What is not confirmed is kept in this browser; the question is for those who close it for good.
      if (session.store.getState().saved.state === 'refused') event.preventDefault();
    };
    window.addEventListener('beforeunload', onLeave);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('beforeunload', onLeave);
    };
  }, [session]);
  return (
    <div
      className={`grid h-full ${bare ? 'grid-cols-[0_1fr] grid-rows-[0_1fr_0_0]' : 'grid-cols-[456px_1fr] grid-rows-[48px_1fr_44px_216px]'}`}
    >
      <div className="col-span-2 overflow-hidden">{!bare && <TopBar />}</div>
      <div className="row-span-3 min-h-0 overflow-hidden border-r border-line bg-panel">{!bare && <Sheet />}</div>
      <StageView />
      <div className="min-w-0 overflow-hidden">{!bare && <TimeBar />}</div>
      <div className="min-w-0 overflow-hidden">{!bare && <Deck />}</div>
    </div>
  );
}
