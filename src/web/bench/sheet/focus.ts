/** The focus goes to a row, or into its first control, also where the row has to be drawn first. */
import { useEffect, useRef, type RefObject } from 'react';
import { choose } from '../../../session/actions.js';
import { useBench } from '../../context.js';
import type { Layout } from './layout.js';

export type FocusRow = (id: string, inputs?: boolean) => void;

export function useRowFocus(scroller: RefObject<HTMLElement | null>, { items }: Layout, opened: ReadonlySet<string>): FocusRow {
  const session = useBench();
  const wanted = useRef<{ id: string; inputs: boolean } | null>(null);
  useEffect(() => {
    const want = wanted.current;
    if (!want) return;
    const box = scroller.current!;
    const item = items.find((i) => i.type === 'strand' && i.strand.id === want.id);
    if (item) {
      if (item.y < box.scrollTop) box.scrollTop = item.y - 8;
      else if (item.y + item.height > box.scrollTop + box.clientHeight)
        box.scrollTop = item.y + item.height - box.clientHeight + 8;
    }
    const row = box.querySelector<HTMLElement>(`[data-strand="${want.id}"]`);
    if (!row) return;
    const field = want.inputs ? row.querySelector<HTMLElement>('[data-opened] input, [data-opened] button') : null;
    if (want.inputs && !field && opened.has(want.id)) return;
    (field ?? row).focus();
    wanted.current = null;
  });
  return (id, inputs = false) => {
    wanted.current = { id, inputs };
    choose(session, id);
    // Choosing the strand that is chosen already renders nothing: focus it at once.
    const row = scroller.current?.querySelector<HTMLElement>(`[data-strand="${id}"]`);
    if (row && !inputs) {
      row.focus();
      wanted.current = null;
    }
  };
}
