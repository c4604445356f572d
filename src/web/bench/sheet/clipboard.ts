/** Strands on the clipboard: the browser's own keys and menus copy, cut and paste them while a row has the focus. */
import { useEffect, useRef, type ClipboardEvent } from 'react';
import { copied, paste, remove } from '../../../session/actions.js';
import { chosenRun } from '../../../session/state.js';
import type { Bench } from '../../../session/bench.js';
import { useBench } from '../../context.js';
import type { FocusRow } from './focus.js';

/** Said where the page may not use the clipboard by itself: the browser's own keys still do. */
const notAllowed = (session: Bench, keys: string) => () =>
  session.store.setState({ notice: `This browser does not let the page use the clipboard; ${keys} does.` });

/** By a menu: the strands as text on the clipboard. */
export const copyByMenu = (session: Bench, ids: readonly string[]): Promise<void> =>
  navigator.clipboard.writeText(copied(session, ids)).catch(notAllowed(session, 'Ctrl C'));

/** They are taken out of the sheet only when they are on the clipboard. */
export const cutByMenu = (session: Bench, ids: readonly string[]): Promise<void> =>
  navigator.clipboard.writeText(copied(session, ids)).then(() => remove(session, ids), notAllowed(session, 'Ctrl X'));

/** What is on the clipboard goes under the chosen strand. */
export const pasteByMenu = (session: Bench): Promise<void> =>
  navigator.clipboard.readText().then((text) => void paste(session, text), notAllowed(session, 'Ctrl V'));

const isText = (target: EventTarget) =>
  target instanceof HTMLElement && (target.matches('input, textarea') || target.isContentEditable);

export function useClipboard(focusRow: FocusRow) {
  const session = useBench();
  const copy = (event: ClipboardEvent): readonly string[] | null => {
    const ids = chosenRun(session.store.getState());
    if (isText(event.target) || ids.length === 0) return null;
    event.preventDefault();
    event.clipboardData.setData('text/plain', copied(session, ids));
    return ids;
  };
  const pasteFrom = (event: Pick<ClipboardEvent, 'target' | 'preventDefault' | 'clipboardData'>) => {
    if (isText(event.target)) return;
    event.preventDefault();
    const first = paste(session, event.clipboardData.getData('text/plain'));
    if (first) focusRow(first);
  };
  const now = useRef(pasteFrom);
  now.current = pasteFrom;
  // Where nothing has the focus, as on an empty sheet, the page itself is pasted into.
  useEffect(() => {
    const onPage = (event: globalThis.ClipboardEvent) => {
      if (event.target === document.body && event.clipboardData)
        now.current({ target: event.target, clipboardData: event.clipboardData, preventDefault: () => event.preventDefault() });
    };
    document.addEventListener('paste', onPage);
    return () => document.removeEventListener('paste', onPage);
  }, []);
  return {
    onCopy: (event: ClipboardEvent) => void copy(event),
    onCut: (event: ClipboardEvent) => {
      const ids = copy(event);
      if (!ids) return;
      remove(session, ids);
      const { chosen } = session.store.getState();
      if (chosen) focusRow(chosen);
    },
    onPaste: (event: ClipboardEvent) => pasteFrom(event),
  };
}
