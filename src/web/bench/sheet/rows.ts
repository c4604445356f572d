/** The rows of a sheet: where each lies, which are drawn, and what they print; the same objects for as long as they say the same. */
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useMemo, useRef, type RefObject } from 'react';
import type { Problem } from '../../../core/effect/read.js';
import { strandsOf, type Effect, type Strand } from '../../../core/effect/schema.js';
import { family, threadsOf } from '../../../core/effect/threads.js';
import type { Showing } from '../../../session/showing.js';
import { chipsOf, type Chip } from './chips.js';
import { TOP, layOut, type Item, type Layout } from './layout.js';

/** So many rows are drawn beyond what is seen, on either side. */
const OVERSCAN = 10;
const NO_KIN: ReadonlySet<string> = new Set();

const keyOf = (item: Item): string => (item.type === 'strand' ? item.strand.id : `section ${item.first}`);

/** The same object for as long as it says the same. */
function useStable<T>(value: T, keyOf: (value: T) => string): T {
  const held = useRef<{ key: string; value: T } | null>(null);
  const key = keyOf(value);
  if (held.current?.key !== key) held.current = { key, value };
  return held.current!.value;
}

export interface RowsOf {
  readonly effect: Effect;
  readonly problems: readonly Problem[];
  readonly opened: ReadonlySet<string>;
  /** First strands of the sections that are folded. */
  readonly folded: ReadonlySet<string>;
  readonly chosen: string | null;
}

/** Where everything lies, what is in trouble, and which threads hang together with the chosen strand. */
export function useLayout({ effect, problems, opened, folded, chosen }: RowsOf) {
  const troubled = useMemo(
    () => new Map(problems.flatMap((p) => (p.strand === null ? [] : [[p.strand, p.message] as const]))),
    [problems],
  );
  const heights = useMemo(
    () => new Map(problems.flatMap((p) => (p.strand === null ? [] : [[p.strand, { mends: p.code === 'kind' }] as const]))),
    [problems],
  );
  const layout = useMemo(() => layOut(effect, opened, folded, heights), [effect, opened, folded, heights]);
  const threads = useStable(
    useMemo(() => threadsOf(effect), [effect]),
    (t) => t.map(({ from, to }) => `${from} ${to}`).join(),
  );
  const lines = useStable(layout, ({ anchor, height }) => [...anchor].join(';') + height);
  const kin = useMemo(() => (chosen === null ? NO_KIN : family(threads, chosen)), [threads, chosen]);
  const faulty = useMemo(() => new Set(troubled.keys()), [troubled]);
  return { troubled, layout, threads, lines, kin, faulty };
}

/** The rows that are near what is seen. */
export function useSeenRows(
  { items }: Layout,
  lines: Layout,
  chosen: string | null,
  scroller: RefObject<HTMLElement | null>,
): readonly Item[] {
  const chosenAt = items.findIndex((i) => i.type === 'strand' && i.strand.id === chosen);
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (k) => items[k]!.height,
    getItemKey: (k) => keyOf(items[k]!),
    paddingStart: TOP,
    overscan: OVERSCAN,
    initialRect: { width: 456, height: 800 },
    // The chosen row stays, wherever the sheet is scrolled to: it may have the focus.
    rangeExtractor: (range) => {
      const seen = defaultRangeExtractor(range);
      return chosenAt < 0 || seen.includes(chosenAt) ? seen : [...seen, chosenAt];
    },
  });
  useLayoutEffect(() => rows.measure(), [rows, lines]);
  return rows.getVirtualItems().flatMap(({ index }) => items[index] ?? []);
}

/** What a row prints, by its strand. */
export function useChips(effect: Effect, showing: Showing): (strand: Strand) => readonly Chip[] {
  const names = useMemo(() => new Map(strandsOf(effect).map((s) => [s.id, s.name])), [effect]);
  const held = useRef(new Map<string, { key: string; chips: readonly Chip[] }>());
  return (strand) => {
    const chips = chipsOf(effect, showing, names, strand);
    const key = JSON.stringify(chips);
    const before = held.current.get(strand.id);
    if (before?.key === key) return before.chips;
    held.current.set(strand.id, { key, chips });
    return chips;
  };
}
