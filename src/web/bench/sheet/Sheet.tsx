/** The sheet: strands in order, their threads in the margin, the surface at its foot. A treegrid to the keyboard. */
import { DndContext } from '@dnd-kit/core';
import { CircleAlert, Plus } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { whereComputed } from '../../../core/analysis/where.js';
import { strandsOf } from '../../../core/effect/schema.js';
import { choose } from '../../../session/actions.js';
import { Chain, addLine } from '../../../session/chain.js';
import { useBench, useBenchState, useShowing } from '../../context.js';
import { SheetOrOverview } from '../overview/SheetOrOverview.js';
import { useBand, type Band } from './band.js';
import { useClipboard } from './clipboard.js';
import { useRowDrag } from './drag.js';
import { useRowFocus, type FocusRow } from './focus.js';
import { onRowKey } from './keys.js';
import { Helped } from './Help.js';
import { KeysHelp } from './KeysHelp.js';
import type { Layout } from './layout.js';
import { allowLetters, lettersAllowed } from './letters.js';
import { PICKER, Picked, usePickerPlace, type Picking } from './Picked.js';
import { Adding } from '../../../session/adding.js';
import { addUse } from '../../../session/motifs.js';
import { motifsAtHand } from '../../../session/motifLibrary.js';
import { motifKey, type AddHow, type Operation } from './Picker.js';
import { useChips, useLayout, useSeenRows } from './rows.js';
import { SectionRow } from './SectionRow.js';
import type { RowMenu } from './RowMenu.js';
import { StrandRow, type RowActions } from './StrandRow.js';
import { Surface } from './Surface.js';
import { Threads } from './Threads.js';

export function Sheet() {
  const problems = useBenchState((s) => s.problems);
  const [picking, setPicking] = useState<Picking>(null);
  const [letters, setLetters] = useState(lettersAllowed);
  const [keys, setKeys] = useState(false);
  useSlash(
    () => setPicking('add'),
    () => setKeys(true),
  );
  const general = problems.find((p) => p.strand === null);
  return (
    <section aria-label="Sheet" className="flex h-full flex-col small:min-w-[456px]">
      <Head
        letters={letters}
        onLetters={(on) => {
          setLetters(on);
          allowLetters(on);
        }}
        onAdd={() => setPicking('add')}
        keys={keys}
        onKeys={setKeys}
      />
      <Rows picking={picking} onPicking={setPicking} letters={letters} />
      {general && (
        <p role="alert" className="shrink-0 border-t border-line py-1.5 pr-3 pl-11 text-[12px] leading-4 text-fault">
          {general.message}
        </p>
      )}
      <Surface />
    </section>
  );
}

/** The slash adds from anywhere on the bench where nothing is being typed; the question mark lists the keys. */
function useSlash(pick: () => void, help: () => void): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (
        (event.key !== '/' && event.key !== '?') ||
        event.defaultPrevented ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        !lettersAllowed()
      )
        return;
      if (target?.matches('input, textarea, select') || target?.isContentEditable) return;
      event.preventDefault();
      if (event.key === '?') help();
      else pick();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
    // It does the same whenever it is made.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
}

interface HeadProps {
  readonly letters: boolean;
  readonly onLetters: (on: boolean) => void;
  readonly onAdd: () => void;
  /** Whether the keys are listed. */
  readonly keys: boolean;
  readonly onKeys: (on: boolean) => void;
}

function Head({ letters, onLetters, onAdd, keys, onKeys }: HeadProps) {
  const count = useBenchState((s) => s.effect.strands.length);
  const several = useBenchState((s) => s.run.length);
  const errors = useBenchState((s) => s.problems.length);
  return (
    <div className="flex h-[34px] shrink-0 items-center gap-2 pr-3 pl-2">
      <h2 className="sr-only">Sheet</h2>
      <SheetOrOverview />
      <span className="text-[12px] text-muted">
        {several > 1 ? `${several} of ${count} chosen` : count === 1 ? '1 strand' : `${count} strands`}
      </span>
      {errors > 0 && (
        <span role="status" className="flex items-center gap-1 text-[12px] text-fault">
          <CircleAlert size={13} strokeWidth={1.5} aria-hidden />
          {errors === 1 ? '1 error' : `${errors} errors`}
        </span>
      )}
      <span className="grow" />
      <KeysHelp letters={letters} onLetters={onLetters} open={keys} onOpen={onKeys} />
      <button className="plain px-1.5 text-ink" onClick={onAdd}>
        <Plus size={15} strokeWidth={1.5} aria-hidden />
        Add <kbd>/</kbd>
      </button>
    </div>
  );
}

/** What rows do, as one object for good: rows that nothing changes are not drawn again. */
function useRowActions(now: RowActions): RowActions {
  const doing = useRef(now);
  doing.current = now;
  return useMemo<RowActions>(
    () => ({
      menu: (...a) => doing.current.menu(...a),
      rename: (...a) => doing.current.rename(...a),
      key: (...a) => doing.current.key(...a),
      click: (...a) => doing.current.click(...a),
      addUnder: (...a) => doing.current.addUnder(...a),
      replace: (...a) => doing.current.replace(...a),
    }),
    [],
  );
}

/** What the rows do, and what only rows know: which menu is open, which name is being typed. */
function useRows(layout: Layout, focusRow: FocusRow, picking: (what: Picking) => void, letters: boolean, focusSheet: () => void) {
  const session = useBench();
  const [renaming, setRenaming] = useState<string | null>(null);
  const [menu, setMenu] = useState<{ id: string; what: RowMenu } | null>(null);
  const setOpened = (id: string, on: boolean) =>
    session.store.setState((s) => {
      const next = new Set(s.opened);
      if (on) next.add(id);
      else next.delete(id);
      return { opened: next };
    });
  const replace = (id: string) => {
    session.choosing.only(id);
    picking('replace');
  };
  const hands = {
    ...{ session, focusRow, focusSheet, setOpened, rename: setRenaming },
    reachable: layout.items.flatMap((i) => (i.type === 'strand' ? [i.strand.id] : [])),
    menu: (id: string, what: RowMenu) => setMenu({ id, what }),
    pick: () => picking('add'),
    replace,
  };
  const actions = useRowActions({
    menu: (id, what) => setMenu(what === null ? null : { id, what }),
    rename: (id, on) => {
      setRenaming(on ? id : null);
      if (!on) focusRow(id);
    },
    key: (event, id) => onRowKey(hands, id, event, letters),
    click: (event, id) => {
      if (event.shiftKey) session.choosing.upTo(id);
      else if (event.ctrlKey || event.metaKey) session.choosing.toggle(id);
      else session.choosing.only(id);
      const { chosen } = session.store.getState();
      if (chosen !== null) focusRow(chosen);
    },
    addUnder: (id) => {
      choose(session, id);
      picking('add');
    },
    replace,
  });
  const add = ({ op, typed, turn }: Operation, how: AddHow) => {
    const { effect, motifs, chosen } = session.store.getState();
    const motif = motifsAtHand(effect, motifs).find((m) => motifKey(m) === op);
    const id = motif
      ? addUse(session, motif, chosen ?? strandsOf(effect).at(-1)?.id ?? null, {
          splice: how === 'splice',
          typed: Adding.under(session).use([motif], typed),
        })
      : addLine(session, Chain.under(session).here(typed), { op, turn, splice: how === 'splice' });
    if (id === null) return;
    picking(null);
    if (how === 'inputs') setOpened(id, true);
    focusRow(id, how === 'inputs');
  };
  return { renaming, menu, actions, add, setOpened };
}

/** Opens what somebody outside the sheet asks for, at the chosen row. */
function useAsked(onPicking: (what: Picking) => void, actions: RowActions, focusRow: FocusRow): void {
  const session = useBench();
  const asked = useBenchState((s) => s.asked);
  useEffect(() => {
    if (asked === null) return;
    session.store.setState({ asked: null });
    const { chosen } = session.store.getState();
    if (asked === 'add') return onPicking('add');
    if (chosen === null) return;
    if (asked === 'show') focusRow(chosen);
    else if (asked === 'replace') actions.replace(chosen);
    else if (asked === 'rename') actions.rename(chosen, true);
    else actions.menu(chosen, asked);
    // It does the same whenever it is made.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [asked, session]);
}

function Rows({ picking, onPicking, letters }: { picking: Picking; onPicking: (what: Picking) => void; letters: boolean }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const chosen = useBenchState((s) => s.chosen);
  const run = useBenchState((s) => s.run);
  const opened = useBenchState((s) => s.opened);
  const readings = useBenchState((s) => s.readings);
  const problems = useBenchState((s) => s.problems);
  const where = useMemo(() => whereComputed(effect, readings), [effect, readings]);
  const chipsFor = useChips(effect, useShowing());
  const folded = useBenchState((s) => s.folded);
  const scroller = useRef<HTMLDivElement>(null);
  const { troubled, layout, threads, lines, kin, faulty } = useLayout({ effect, problems, opened, folded, chosen });
  const seen = useSeenRows(layout, lines, chosen, scroller);
  const focusRow = useRowFocus(scroller, layout, opened);
  // Come back to from the Overview, it shows what is chosen there.
  useEffect(() => {
    if (chosen !== null) focusRow(chosen);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const { line, handlers } = useRowDrag(layout, focusRow);
  const { renaming, menu, actions, add, setOpened } = useRows(layout, focusRow, onPicking, letters, () =>
    scroller.current?.focus(),
  );
  useAsked(onPicking, actions, focusRow);
  const { band, handlers: marking } = useBand(layout);
  const pickerY = usePickerPlace(layout, chosen, picking !== null, scroller);
  const strands = strandsOf(effect);
  const reachable = chosen ?? strands[0]?.id ?? null;
  return (
    <div
      ref={scroller}
      className="scroll relative grow overflow-x-hidden overflow-y-auto outline-none"
      tabIndex={-1}
      {...useClipboard(focusRow)}
    >
      <DndContext {...handlers} accessibility={{ container: document.body }}>
        <div
          role="treegrid"
          aria-label="Strands"
          aria-multiselectable
          aria-rowcount={strands.length}
          className="relative"
          {...marking}
          style={{ height: Math.max(layout.height, picking ? pickerY + PICKER + 10 : 0) }}
        >
          {seen.map((item) =>
            item.type === 'section' ? (
              <SectionRow key={`section ${item.first}`} item={item} onFold={() => session.choosing.fold(item.first)} />
            ) : (
              <div key={item.strand.id} role="none" className="absolute right-0 left-0" style={{ top: item.y }}>
                <StrandRow
                  strand={item.strand}
                  chips={chipsFor(item.strand)}
                  rank={item.rank}
                  height={item.height}
                  opened={item.opened}
                  chosen={item.strand.id === chosen}
                  among={run.includes(item.strand.id)}
                  reachable={item.strand.id === reachable}
                  reading={readings.get(item.strand.id)}
                  where={where.get(item.strand.id) ?? 'pixel'}
                  problem={troubled.get(item.strand.id) ?? null}
                  renaming={renaming === item.strand.id}
                  menu={menu?.id === item.strand.id ? menu.what : null}
                  actions={actions}
                />
              </div>
            ),
          )}
          <Threads layout={lines} threads={threads} chosen={chosen} kin={kin} faulty={faulty} />
          <Marks band={band} line={line} />
          <Helped layout={layout} focusRow={focusRow} />
        </div>
        {strands.length === 0 && !picking && <Empty />}
        {picking && <Picked picking={picking} y={pickerY} chosen={chosen} onAdd={add} {...{ onPicking, focusRow, setOpened }} />}
      </DndContext>
    </div>
  );
}

function Empty() {
  return (
    <p className="absolute top-10 right-8 left-11 text-muted">
      The sheet is empty. Press <kbd>/</kbd> and type a few letters: “time”, “noise”, “colour”.
    </p>
  );
}

/** What is being drawn over the rows: the band that chooses, and where what is dragged would come to lie. */
function Marks({ band, line }: { band: Band | null; line: number | null }) {
  return (
    <>
      {band && <span className="pointer-events-none absolute left-0 w-10 border-l-2 border-ink bg-ink/10" style={band} />}
      {line !== null && <span className="pointer-events-none absolute right-3 left-11 z-10 h-0.5 bg-ink" style={{ top: line }} />}
    </>
  );
}
