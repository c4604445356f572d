/** Opening a bench for a screen, and keeping what is not saved when the page is left. */
import { useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Bench, BenchOptions } from '../session/bench.js';
import { FIRST_STAGE } from '../session/exports.js';
import { OpenFailure } from '../session/failure.js';
import type { Both } from '../session/state.js';
import { Tab } from '../session/tabs.js';
import { useBench } from './context.js';

/** How long a tab that follows may be behind one that edits. */
const TELL_MS = 100;

/**
 * A bench, opened as this tab may have it: one tab edits, the others follow.
 * @param name what is open, which tabs share @param open another name or attempt has it opened anew
 */
export function useOpenBench(name: string | null, open: (options: BenchOptions) => Promise<Bench>, attempt: number) {
  const [search] = useSearchParams();
  const opening = useRef(open);
  opening.current = open;
  const [session, setSession] = useState<Bench | null>(null);
  const [failure, setFailure] = useState<OpenFailure | null>(null);
  const [reopening, setReopening] = useState(false);
  const [editHere, setEditHere] = useState<() => void>(() => () => undefined);
  const frozen = search.get('clock') === 'frozen';
  const start = Number(search.get('t') ?? 0) || 0;
  useEffect(() => {
    if (name === null) return;
    let opened: Bench | null = null;
    let left = false;
    let turn = 0;
    let telling: ReturnType<typeof setTimeout> | null = null;
    setFailure(null);
    const tab = new Tab<Both>({
      name: `wispen ${name}`,
      onRole: (role) => void begin(role === 'following'),
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
    async function begin(following: boolean): Promise<void> {
      const mine = ++turn;
      const before = opened;
      const time = before?.clock.time ?? start;
      opened = null;
      // What is done to one that closes would be done to nobody's document.
      setReopening(before !== null);
      await before?.close();
      try {
        const next = await opening.current({
          ...{ frozen, time, following, fallbackStage: FIRST_STAGE },
          onRehome: () => void rehome(),
        });
        if (left || mine !== turn) return void next.close();
        opened = next;
        next.documents.onChange(({ how }) => how === 'edited' && tell());
        setSession(next);
        setReopening(false);
        tab.greet();
      } catch (error) {
        if (left || mine !== turn) return;
        setReopening(false);
        setFailure(error instanceof OpenFailure ? error : new OpenFailure('broken', (error as Error).message, 'effect'));
      }
    }
    async function rehome(): Promise<void> {
      await opened?.saving.settle();
      await begin(tab.role === 'following');
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
  }, [name, attempt]);
  return { session, failure, editHere, reopening };
}

/** What is not confirmed is kept when the page is left. */
export function useLeaving(): void {
  const session = useBench();
  useEffect(() => {
    const onLeave = (event: BeforeUnloadEvent) => {
      void session.saving.hold();
      // What is confirmed or kept in this browser is safe; the question is about what is neither.
      if (session.saving.atRisk || session.painting.waits) event.preventDefault();
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
