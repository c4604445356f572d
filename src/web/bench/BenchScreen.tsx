/** The Bench: sheet on the left, stage on the right, time and dials under it. */
import { useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import { Bench } from '../../session/bench.js';
import { fireNow, triggerInHand } from '../../session/triggering.js';
import { isTaken, onControl, pictureKey, undoKey } from '../documentKeys.js';
import { Dropper } from '../stage/Dropper.js';
import { Guarded } from '../ui/Guarded.js';
import { Wordmark } from '../ui/Wordmark.js';
import { BenchProvider, useBench, useBenchState } from '../context.js';
import { useLeaving, useOpenBench } from '../useOpenBench.js';
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

export function BenchScreen() {
  const { id, panel } = useParams();
  const [attempt, setAttempt] = useState(0);
  const { session, failure, editHere, reopening } = useOpenBench(id!, (options) => Bench.open(id!, options), attempt);
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
        <OpenBench editHere={editHere} exporting={panel === 'export'} inert={reopening} />
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
      if (undoKey(session, event)) return;
      if ((event.ctrlKey || event.metaKey) && key === 'k') {
        event.preventDefault();
        palette.current();
        return;
      }
      if (isTaken(event) || pictureKey(session, event)) return;
      const letter = !onControl(event) && lettersAllowed();
      if (event.key === '\\') session.store.setState((s) => ({ bare: !s.bare }));
      else if (key === 'c' && letter) session.documents.compare();
      else if (key === 'm' && letter) toggle.current();
      else if (key === 't' && letter && triggerInHand(session.store.getState()))
        fireNow(session, triggerInHand(session.store.getState())!.id);
      else if (event.key === 'Escape') {
        session.frames.endPeek();
        session.store.setState({ striking: false });
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [session]);
}

/** How the bench is divided: the picture alone, the sheet beside it, or the Overview above it. */
const FRAME = {
  bare: 'grid-cols-[0_1fr] grid-rows-[0_minmax(0,1fr)_0_0]',
  sheet: 'grid-cols-[456px_1fr] grid-rows-[48px_minmax(0,1fr)_auto_216px]',
  overview: 'grid-cols-[456px_1fr] grid-rows-[48px_minmax(0,2.08fr)_minmax(0,1fr)]',
};

function OpenBench({ editHere, exporting, inert }: { editHere: () => void; exporting: boolean; inert: boolean }) {
  const session = useBench();
  const name = useBenchState((s) => s.effect.name);
  const bare = useBenchState((s) => s.bare);
  const following = useBenchState((s) => s.following);
  // What a panel stopped on may be gone with the next step.
  const sheet = useBenchState((s) => s.effect);
  const place = useBenchState((s) => s.stage);
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
    <main
      inert={inert}
      className={`grid h-full ${bare ? FRAME.bare : overview ? FRAME.overview : FRAME.sheet} ${bare ? '' : 'small:flex small:flex-col small:overflow-y-auto'}`}
    >
      <div className="col-span-2 overflow-hidden small:shrink-0">
        <Guarded name="The bar" keys={[sheet]}>
          {!bare && <TopBar editHere={editHere} onPalette={() => setPalette(true)} />}
        </Guarded>
      </div>
      {over && (
        <div
          key="overview"
          className="col-span-2 min-h-0 overflow-hidden border-b border-line small:order-2 small:h-[80vh] small:shrink-0"
        >
          <Guarded name="The Overview" keys={[sheet]}>
            <Overview onOpen={openInSheet} />
          </Guarded>
        </div>
      )}
      {/* A tab that follows shows everything and changes nothing. */}
      <div
        key="sheet"
        className={`min-h-0 overflow-hidden border-r border-line bg-panel ${bare ? '' : 'small:order-4 small:h-[90vh] small:min-h-[360px] small:shrink-0 small:overflow-x-auto small:border-t small:border-r-0'} ${over ? '' : 'row-span-3'}`}
        inert={following}
      >
        <Guarded name="The sheet" keys={[sheet, over]}>
          {over ? <StrandCard onOpen={openInSheet} /> : !bare && <Sheet />}
        </Guarded>
      </div>
      <Guarded key="stage" name="The stage" keys={[sheet, place]}>
        <StageView aside={over} />
      </Guarded>
      {!over && (
        <>
          <div className="min-w-0 overflow-hidden small:order-3 small:shrink-0 small:overflow-x-auto">
            <Guarded name="The time bar" keys={[sheet]}>
              {!bare && <TimeBar />}
            </Guarded>
          </div>
          <div className="min-w-0 overflow-hidden small:order-2 small:shrink-0" inert={following}>
            <Guarded name="The deck" keys={[sheet, place]}>
              {!bare && <Deck />}
            </Guarded>
          </div>
        </>
      )}
      <Guarded name="The palette" keys={[palette]}>
        <Palette open={palette} onOpen={setPalette} />
      </Guarded>
      {exporting && <ExportPanel />}
    </main>
  );
}
