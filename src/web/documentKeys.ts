/** Keys that act from anywhere on the Bench and in the Stage room alike: undo, redo, play, and without optics. */
import type { Bench } from '../session/bench.js';
import { typing } from './ui/keys.js';

/** A press on something that has keys of its own. */
export const onControl = (event: KeyboardEvent): boolean =>
  event.target instanceof HTMLElement &&
  event.target.closest('button, [role="slider"], [role="menuitem"], [role="tab"], a') !== null;

/** Undo and redo, wherever something is typed too. @returns whether it was one of them */
export function undoKey({ documents }: Pick<Bench, 'documents'>, event: KeyboardEvent): boolean {
  const key = event.key.toLowerCase();
  if (!(event.ctrlKey || event.metaKey) || (key !== 'z' && key !== 'y')) return false;
  event.preventDefault();
  if (key === 'y' || event.shiftKey) documents.redo();
  else documents.undo();
  return true;
}

/** Whether a key is somebody else's: typed in, with another held, or done already. */
export const isTaken = (event: KeyboardEvent): boolean =>
  typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented;

/** Plays, pauses, and shows the picture without its optics. @returns whether it was one of them */
export function pictureKey({ clock, frames, store }: Pick<Bench, 'clock' | 'frames' | 'store'>, event: KeyboardEvent): boolean {
  if (event.key === "'") frames.setRaw(!store.getState().raw);
  else if (event.key === ' ' && !onControl(event)) {
    event.preventDefault();
    if (clock.playing) clock.pause();
    else clock.play();
  } else return false;
  return true;
}
