/** How old a reading of the picture is: while a newer picture is shown, an old number is shown as old. */
import type { Bench } from '../../../session/bench.js';

/** While a picture moves, a reading is of what is shown for as long as between two readings. */
const MOVING_MS = 300;
/** So long after the picture has changed, an old reading's numbers are no longer shown. */
const OLD_MS = 1000;

/** How old a reading is: of the picture that is shown, of one before, or of one so long ago that its numbers say nothing. */
export type Age = 'now' | 'old' | 'gone';

/** Says how old the reading that is shown is, as it ages. @returns ends it */
export function watchAge(session: Bench, say: (age: Age) => void): () => void {
  let since: number | null = null;
  let timer: ReturnType<typeof setTimeout> | null = null;
  const look = () => {
    if (timer) clearTimeout(timer);
    timer = null;
    const { levels } = session.store.getState();
    if (!levels || levels.frame >= session.frames.shown) {
      since = null;
      return say('now');
    }
    since ??= performance.now();
    const grace = session.clock.playing ? MOVING_MS : 0;
    const age = performance.now() - since;
    say(age >= OLD_MS ? 'gone' : age >= grace ? 'old' : 'now');
    if (age < OLD_MS) timer = setTimeout(look, Math.max(1, (age < grace ? grace : OLD_MS) - age));
  };
  let last = session.store.getState().levels;
  const unsubscribe = session.store.subscribe(({ levels }) => {
    if (levels === last) return;
    last = levels;
    // It is younger than the one before, though the picture has gone on.
    since = null;
    look();
  });
  const undrawn = session.frames.onDrawn(look);
  look();
  return () => {
    unsubscribe();
    undrawn();
    if (timer) clearTimeout(timer);
  };
}
