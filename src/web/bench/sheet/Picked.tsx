/** The picker on the sheet: where it stands, and what is done with what is picked. */
import { useEffect, useMemo, type RefObject } from 'react';
import { strandsOf } from '../../../core/effect/schema.js';
import { Adding } from '../../../session/adding.js';
import { Chain } from '../../../session/chain.js';
import { Replacing } from '../../../session/replacing.js';
import { useBench, useBenchState } from '../../context.js';
import type { FocusRow } from './focus.js';
import type { Layout } from './layout.js';
import { Picker, type AddHow, type Operation } from './Picker.js';

/** The height that the picker takes under a row. */
export const PICKER = 310;

/** What an operation is being picked for: a strand of its own, or the place of the chosen one. */
export type Picking = 'add' | 'replace' | null;

/** What another operation in a strand's place would do, and does. @param id of the strand; null while none is replaced */
function useReplacing(id: string | null): Replacing | null {
  const effect = useBenchState((s) => s.effect);
  return useMemo(() => (id === null ? null : new Replacing(effect, id)), [effect, id]);
}

/** Where the picker stands: under the chosen row, scrolled to where all of it is seen. */
export function usePickerPlace(
  { items }: Layout,
  chosen: string | null,
  picking: boolean,
  scroller: RefObject<HTMLElement | null>,
): number {
  const under = items.find((i) => i.type === 'strand' && i.strand.id === chosen) ?? items[items.length - 1];
  const y = Math.max(4, under ? under.y + under.height : 4);
  useEffect(() => {
    if (!picking) return;
    const box = scroller.current!;
    if (y + PICKER > box.scrollTop + box.clientHeight) box.scrollTop = y + PICKER - box.clientHeight;
  }, [picking, y, scroller]);
  return y;
}

/** What would be added under the chosen strand. */
function useChain(chosen: string | null): Chain {
  const effect = useBenchState((s) => s.effect);
  const program = useBenchState((s) => s.program);
  return useMemo(
    () => new Chain(new Adding(effect, program, chosen ?? strandsOf(effect).at(-1)?.id ?? null)),
    [effect, program, chosen],
  );
}

interface PickedProps {
  readonly picking: 'add' | 'replace';
  readonly y: number;
  readonly chosen: string | null;
  readonly onAdd: (pick: Operation, how: AddHow) => void;
  readonly onPicking: (what: Picking) => void;
  readonly focusRow: FocusRow;
  readonly setOpened: (id: string, on: boolean) => void;
}

/** The picker, for what it is open for. */
export function Picked({ picking, y, chosen, onAdd, onPicking, focusRow, setOpened }: PickedProps) {
  const session = useBench();
  const replacing = useReplacing(picking === 'replace' ? chosen : null);
  const chain = useChain(chosen);
  const put = ({ op }: Operation, how: AddHow) => {
    onPicking(null);
    if (!replacing || chosen === null) return;
    replacing.replace(session, op);
    if (how === 'inputs') setOpened(chosen, true);
    focusRow(chosen, how === 'inputs');
  };
  return (
    <Picker
      y={y}
      chain={chain}
      {...(replacing ? { replaces: replacing } : {})}
      onAdd={replacing ? put : onAdd}
      onClose={() => {
        onPicking(null);
        if (chosen) focusRow(chosen);
      }}
    />
  );
}
