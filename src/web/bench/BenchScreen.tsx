/** The Bench: sheet on the left, stage on the right, time and dials under it. */
import { useEffect, useRef, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { OpenFailure } from '../../session/failure.js';
import { Bench } from '../../session/bench.js';
import type { Both } from '../../session/state.js';
import { FIRST_STAGE } from '../../session/exports.js';
import { Tab } from '../../session/tabs.js';
import { fireNow, triggerInHand } from '../../session/triggering.js';
import { typing } from '../ui/keys.js';
import { Dropper } from '../stage/Dropper.js';
import { Wordmark } from '../ui/Wordmark.js';
import { BenchProvider, useBench, useBenchState } from '../context.js';
import { Palette } from './commands/Palette.js';
import { Deck } from './deck/Deck.js';
import { Overview } from './overview/Overview.js';
import { useOverview } from './overview/SheetOrOverview.js';
import { StrandCard } from './overview/StrandCard.js';
import { ExportPanel } from './ExportPanel.js';
import { Failed } from './Failed.js';
import { lettersAllowed } from './sheet/letters.js';
import { Sheet } from './sheet/Sheet.js';
import { StageView } from '../stage/StageView.js';
import { TimeBar } from './time/TimeBar.js';
import { TopBar } from './TopBar.js';

/** How long a tab that follows may be behind one that edits. */
const TELL_MS = 100;

/** The bench of an effect, opened as this tab may have it: one tab edits, the others follow. */
function useOpenBench(id: string, attempt: number) {
  const [search] = useSearchParams();
  const [session, setSession] = useState<Bench | null>(null);
  const [failure, setFailure] = useState<OpenFailure | null>(null);
  const [editHere, setEditHere] = useState<() => void>(() => () => undefined);
  const frozen = search.get('clock') === 'frozen';
  const start = Number(search.get('t') ?? 0) || 0;
  useEffect(() => {
    let opened: Bench | null = null;
    let left = false;
    let turn = 0;
    let telling: ReturnType<typeof setTimeout> | null = null;
    setFailure(null);
    const tab = new Tab<Both>({
      name: `wispen ${id}`,
      onRole: (role) => void open(role === 'following'),
      onState: (state) => opened?.documents.show(state),
      state: () => opened?.documents.both ?? null,
      settle: async () => opened?.saving.settle(),
    });
    const tell = () => {
      telling ??= setTimeout(() => {
        telling = null;
        tab.show();
      }, TELL_MS);
    };
    async function open(following: boolean): Promise<void> {
      const mine = ++turn;
      const before = opened;
      const time = before?.clock.time ?? start;
      opened = null;
      await before?.close();
      try {
        const next = await Bench.open(id, {
          ...{ frozen, time, following, fallbackStage: FIRST_STAGE },
          onRehome: () => void rehome(),
        });
        if (left || mine !== turn) return void next.close();
        opened = next;
        next.documents.onChange(({ how }) => how === 'edited' && tell());
        setSession(next);
        tab.greet();
      } catch (error) {
        if (left || mine !== turn) return;
        setFailure(error instanceof OpenFailure ? error : new OpenFailure('broken', (error as Error).message, 'effect'));
      }
    }
    async function rehome(): Promise<void> {
      await opened?.saving.settle();
      await open(tab.role === 'following');
    }
    setEditHere(() => () => tab.editHere());
    void tab.join();
    return () => {
      left = true;
      if (telling) clearTimeout(telling);
      setSession(null);
      void opened?.close();
      tab.close();
    };
    // The time in the address is where playing starts; it does not follow later.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, attempt]);
  return { session, failure, editHere };
}

export function BenchScreen() {
  const { id, panel } = useParams();
  const [attempt, setAttempt] = useState(0);
  const { session, failure, editHere } = useOpenBench(id!, attempt);
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
        <OpenBench editHere={editHere} exporting={panel === 'export'} />
      </Dropper>
    </BenchProvider>
  );
}

/** Keys that act from anywhere on the bench where nothing is being typed. */
function useBenchKeys(toggleOverview: () => void, openPalette: () => void): void {
  const session = useBench();
  const toggle = useRef(toggleOverview);
  toggle.current = toggleOverview;
  const palette = useRef(openPalette);
  palette.current = openPalette;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if ((event.ctrlKey || event.metaKey) && (key === 'z' || key === 'y')) {
        event.preventDefault();
        if (key === 'y' || event.shiftKey) session.documents.redo();
        else session.documents.undo();
        return;
      }
      if ((event.ctrlKey || event.metaKey) && key === 'k') {
        event.preventDefault();
        palette.current();
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
      else if (key === 'c' && !onControl && lettersAllowed()) session.documents.compare();
      else if (key === 'm' && !onControl && lettersAllowed()) toggle.current();
      else if (key === 't' && !onControl && lettersAllowed() && triggerInHand(session.store.getState()))
        fireNow(session, triggerInHand(session.store.getState())!.id);
      else if (event.key === 'Escape') {
        session.frames.endPeek();
        session.store.setState({ striking: false });
      } else if (event.key === "'") session.frames.setRaw(!session.store.getState().raw);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [session]);
}

/** What is not confirmed is kept when the page is left. */
function useLeaving(): void {
  const session = useBench();
  useEffect(() => {
    const onLeave = (event: BeforeUnloadEvent) => {
      void session.saving.hold();
      // What is confirmed or kept in this browser is safe; the question is about what is neither.
      if (session.saving.atRisk) event.preventDefault();
    };
    const onHide = () => void session.saving.hold();
    window.addEventListener('beforeunload', onLeave);
    window.addEventListener('pagehide', onHide);
    document.addEventListener('visibilitychange', onHide);
    return () => {
      window.removeEventListener('beforeunload', onLeave);
      window.removeEventListener('pagehide', onHide);
      document.removeEventListener('visibilitychange', onHide);
    };
  }, [session]);
}

/** How the bench is divided: the picture alone, the sheet beside it, or the Overview above it. */
const FRAME = {
  bare: 'grid-cols-[0_1fr] grid-rows-[0_minmax(0,1fr)_0_0]',
  sheet: 'grid-cols-[456px_1fr] grid-rows-[48px_minmax(0,1fr)_auto_216px]',
  overview: 'grid-cols-[456px_1fr] grid-rows-[48px_minmax(0,2.08fr)_minmax(0,1fr)]',
};

function OpenBench({ editHere, exporting }: { editHere: () => void; exporting: boolean }) {
  const session = useBench();
  const name = useBenchState((s) => s.effect.name);
  const bare = useBenchState((s) => s.bare);
  const following = useBenchState((s) => s.following);
  const [overview, setOverview] = useOverview();
  useEffect(() => {
    document.title = `${name} · Wispen`;
  }, [name]);
  const [palette, setPalette] = useState(false);
  useBenchKeys(
    () => setOverview(!overview),
    () => setPalette(true),
  );
  useLeaving();
  const openInSheet = (strand: string) => {
    session.choosing.only(strand);
    session.store.setState(({ opened }) => ({ opened: new Set([...opened, strand]) }));
    setOverview(false);
  };
  const over = overview && !bare;
  return (
    <main className={`grid h-full ${bare ? FRAME.bare : overview ? FRAME.overview : FRAME.sheet}`}>
      <div className="col-span-2 overflow-hidden">
        {!bare && <TopBar editHere={editHere} onPalette={() => setPalette(true)} />}
      </div>
      {over && (
        <div key="overview" className="col-span-2 min-h-0 overflow-hidden border-b border-line">
          <Overview onOpen={openInSheet} />
        </div>
      )}
      {/* A tab that follows shows everything and changes nothing. */}
      <div
        key="sheet"
        className={`min-h-0 overflow-hidden border-r border-line bg-panel ${over ? '' : 'row-span-3'}`}
        inert={following}
      >
        {over ? <StrandCard onOpen={openInSheet} /> : !bare && <Sheet />}
      </div>
      <StageView key="stage" aside={over} />
      {!over && (
        <>
          <div className="min-w-0 overflow-hidden">{!bare && <TimeBar />}</div>
          <div className="min-w-0 overflow-hidden" inert={following}>
            {!bare && <Deck />}
          </div>
        </>
      )}
      <Palette open={palette} onOpen={setPalette} />
      {exporting && <ExportPanel />}
    </main>
  );
}
