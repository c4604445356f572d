/** What the keys do on a row that has the focus: a table, by key. */
import type { KeyboardEvent } from 'react';
import { motifOf } from '../../../core/effect/motifs.js';
import { strandsOf } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { bypass, duplicate, moveBy, remove, runWith, section, swap, unfold } from '../../../session/actions.js';
import type { Bench } from '../../../session/bench.js';
import { group, unfoldUse, unfoldedFrom } from '../../../session/motifs.js';
import { typing } from '../../ui/keys.js';
import { pressPeek } from '../PeekButton.js';
import type { FocusRow } from './focus.js';
import type { RowMenu } from './RowMenu.js';

export interface KeyHands {
  readonly session: Bench;
  /** Strands whose rows can be reached, from top to bottom. */
  readonly reachable: readonly string[];
  readonly focusRow: FocusRow;
  /** Where the focus goes when no row is left. */
  readonly focusSheet: () => void;
  readonly setOpened: (id: string, on: boolean) => void;
  readonly rename: (id: string) => void;
  readonly menu: (id: string, what: RowMenu) => void;
  readonly pick: () => void;
  readonly replace: (id: string) => void;
}
type Does = (hands: KeyHands, id: string, event: KeyboardEvent) => void;

const step =
  (rows: number): Does =>
  ({ session, reachable, focusRow }, id) => {
    const next = reachable[reachable.indexOf(id) + rows];
    if (!next) return;
    session.choosing.only(next);
    focusRow(next);
  };
/** With Shift the strands on the way are chosen too. */
const extend =
  (rows: number): Does =>
  ({ session, reachable, focusRow }, id) => {
    const next = reachable[reachable.indexOf(id) + rows];
    if (!next) return;
    session.choosing.upTo(next);
    focusRow(next);
  };
const move =
  (rows: -1 | 1): Does =>
  ({ session, focusRow }, id) => {
    moveBy(session, runWith(session, id), rows);
    focusRow(id);
  };
const take: Does = ({ session, focusRow, focusSheet }, id) => {
  remove(session, runWith(session, id));
  const { chosen } = session.store.getState();
  if (chosen) focusRow(chosen);
  else focusSheet();
};
const double: Does = ({ session, focusRow }, id) => {
  const first = duplicate(session, runWith(session, id));
  if (first) focusRow(first);
};
const peek: Does = ({ session }, id, event) => {
  if (event.repeat) return;
  const end = pressPeek(session, id, event.timeStamp);
  const release = (up: Event) => {
    if (up instanceof globalThis.KeyboardEvent && up.key.toLowerCase() !== 'p') return;
    window.removeEventListener('keyup', release);
    window.removeEventListener('blur', release);
    end(up.type === 'keyup' ? up.timeStamp : null);
  };
  window.addEventListener('keyup', release);
  // A key that comes up elsewhere is never heard of here.
  window.addEventListener('blur', release);
};

const KEYS: Readonly<Record<string, Does>> = {
  ArrowUp: step(-1),
  ArrowDown: step(1),
  Home: ({ reachable, focusRow }) => focusRow(reachable[0]!),
  End: ({ reachable, focusRow }) => focusRow(reachable[reachable.length - 1]!),
  Enter: ({ session, setOpened }, id) => setOpened(id, !session.store.getState().opened.has(id)),
  ArrowRight: ({ setOpened }, id) => setOpened(id, true),
  ArrowLeft: ({ setOpened }, id) => setOpened(id, false),
  Delete: take,
  Backspace: take,
  F2: ({ rename }, id) => rename(id),
};
const SHIFT: Readonly<Record<string, Does>> = { ArrowUp: extend(-1), ArrowDown: extend(1) };
const ALT: Readonly<Record<string, Does>> = { ArrowUp: move(-1), ArrowDown: move(1) };
const LETTERS: Readonly<Record<string, Does>> = {
  '/': ({ pick }) => pick(),
  b: ({ session }, id) => bypass(session, runWith(session, id)),
  d: double,
  g: ({ session }, id) => section(session, runWith(session, id)),
  o: ({ replace }, id) => replace(id),
  m: ({ session }, id) => group(session, runWith(session, id)),
  u: ({ session }, id) => opened(session, id),
  p: peek,
  s: ({ session }, id) => swap(session, id),
  r: ({ rename }, id) => rename(id),
  w: ({ menu }, id) => menu(id, 'wrap'),
  f: ({ menu }, id) => menu(id, 'feed'),
  h: ({ session }, id) => session.store.setState({ help: id }),
};

/** A use or a formula becomes the strands that it stands for. */
function opened(session: Bench, id: string): void {
  const { effect } = session.store.getState();
  const strand = strandsOf(effect).find((s) => s.id === id)!;
  if (motifOf(effect, strand)) unfoldUse(session, id);
  else if (operatorOf(strand.op).literals.formula) unfold(session, id);
}

/** Whether M makes something of it: of one strand alone there is no motif to be made. */
const groups = (session: Bench, id: string): boolean => {
  const run = runWith(session, id);
  return run.length > 1 || unfoldedFrom(session, run) !== null;
};

const found = (table: Readonly<Record<string, Does>>, key: string): Does | undefined =>
  Object.hasOwn(table, key) ? table[key] : undefined;

/** @param letters whether single letters are keys */
export function onRowKey(hands: KeyHands, id: string, event: KeyboardEvent<HTMLElement>, letters: boolean): void {
  const row = event.currentTarget;
  if (event.key === 'Escape' && event.target !== row) {
    // From a field it says "leave the field"; from a button it may still end the peek that the button began.
    if (typing(event.target)) event.preventDefault();
    row.focus();
    return;
  }
  if (event.target !== row || event.ctrlKey || event.metaKey) return;
  const does = event.altKey
    ? found(ALT, event.key)
    : ((event.shiftKey ? found(SHIFT, event.key) : undefined) ??
      found(KEYS, event.key) ??
      (letters ? found(LETTERS, event.key.toLowerCase()) : undefined));
  // For one strand alone it is the Overview's.
  if (!does || (does === LETTERS.m && !groups(hands.session, id))) return;
  event.preventDefault();
  event.stopPropagation();
  does(hands, id, event);
}
