/** The sheet: strands in order, their threads in the margin, the surface at its foot. A treegrid to the keyboard. */
import { DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent, type DragMoveEvent } from '@dnd-kit/core';
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { ChevronRight, CircleAlert, Keyboard, Plus } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { addSection, moveStrand, strandOf } from '../../../core/effect/edits.js';
import { strandsOf, type Strand } from '../../../core/effect/schema.js';
import { addUnderChosen, bypass, choose, moveBy, remove, swap } from '../../../session/actions.js';
import { useBench, useBenchState, useShowing } from '../context.js';
import { chipsOf, type Chip } from './Chips.js';
import { ROW, TOP, family, layOut, threadsOf, type Item } from './layout.js';
import { Picker, type AddHow } from './Picker.js';
import { pressPeek } from '../PeekButton.js';
import { StrandRow, type RowActions, type RowMenu } from './StrandRow.js';
import { Surface } from './Surface.js';
import { Threads } from './Threads.js';

/** So many rows are drawn beyond what is seen, on either side. */
const OVERSCAN = 10;
const KEYS_SETTING = 'wispen.letters';
const NO_KIN: ReadonlySet<string> = new Set();

const keyOf = (item: Item): string => (item.type === 'strand' ? item.strand.id : `section ${item.first}`);

/** The same object for as long as it says the same. */
function useStable<T>(value: T, keyOf: (value: T) => string): T {
  const held = useRef<{ key: string; value: T } | null>(null);
  const key = keyOf(value);
  if (held.current?.key !== key) held.current = { key, value };
  return held.current!.value;
}

function lettersAllowed(): boolean {
  try {
    return localStorage.getItem(KEYS_SETTING) !== 'off';
  } catch {
    return true;
  }
}

export function Sheet() {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const showing = useShowing();
  const chosen = useBenchState((s) => s.chosen);
  const opened = useBenchState((s) => s.opened);
  const readings = useBenchState((s) => s.readings);
  const problems = useBenchState((s) => s.problems);
  const [folded, setFolded] = useState<ReadonlySet<string>>(NO_KIN);
  const [picking, setPicking] = useState(false);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [titling, setTitling] = useState<string | null>(null);
  const [menu, setMenu] = useState<{ id: string; what: RowMenu } | null>(null);
  const [letters, setLetters] = useState(lettersAllowed);
  const [drop, setDrop] = useState<number | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const wantFocus = useRef<{ id: string; inputs: boolean } | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));

  const troubled = useMemo(
    () => new Map(problems.flatMap((p) => (p.strand === null ? [] : [[p.strand, p.message] as const]))),
    [problems],
  );
  const layout = useMemo(() => layOut(effect, opened, folded, troubled), [effect, opened, folded, troubled]);
  const threads = useStable(
    useMemo(() => threadsOf(effect), [effect]),
    (t) => t.map(({ from, to }) => `${from} ${to}`).join(),
  );
  const lines = useStable(layout, ({ anchor, height }) => [...anchor].join(';') + height);
  const kin = useMemo(() => (chosen === null ? NO_KIN : family(threads, chosen)), [threads, chosen]);
  const faulty = useMemo(() => new Set(troubled.keys()), [troubled]);
  const names = useMemo(() => new Map(strandsOf(effect).map((s) => [s.id, s.name])), [effect]);
  const strands = strandsOf(effect);

  const focusRow = useCallback(
    (id: string, inputs = false) => {
      wantFocus.current = { id, inputs };
      choose(session, id);
      // Choosing the strand that is chosen already renders nothing: focus it at once.
      const row = scroller.current?.querySelector<HTMLElement>(`[data-strand="${id}"]`);
      if (row && !inputs) {
        row.focus();
        wantFocus.current = null;
      }
    },
    [session],
  );

  useEffect(() => {
    const want = wantFocus.current;
    if (!want) return;
    const item = layout.items.find((i) => i.type === 'strand' && i.strand.id === want.id);
    const box = scroller.current!;
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
    wantFocus.current = null;
  });

  const setOpened = (id: string, on: boolean) =>
    session.store.setState((s) => {
      const next = new Set(s.opened);
      if (on) next.add(id);
      else next.delete(id);
      return { opened: next };
    });

  const add = (op: string, how: AddHow) => {
    setPicking(false);
    const id = addUnderChosen(session, op, how === 'splice');
    if (how === 'inputs') setOpened(id, true);
    focusRow(id, how === 'inputs');
  };

  const onRowKey = (event: KeyboardEvent<HTMLDivElement>, id: string) => {
    const place = strands.findIndex((s) => s.id === id);
    const row = event.currentTarget;
    if (event.key === 'Escape' && event.target !== row) {
      event.preventDefault();
      row.focus();
      return;
    }
    if (event.target !== row || event.ctrlKey || event.metaKey) return;
    const visible = layout.items.flatMap((i) => (i.type === 'strand' ? [i.strand.id] : []));
    const at = visible.indexOf(id);
    const handle = (action: () => void) => {
      event.preventDefault();
      event.stopPropagation();
      action();
    };
    if (event.altKey) {
      if (event.key === 'ArrowUp' || event.key === 'ArrowDown')
        handle(() => {
          moveBy(session, id, event.key === 'ArrowUp' ? -1 : 1);
          focusRow(id);
        });
      return;
    }
    switch (event.key) {
      case 'ArrowUp':
      case 'ArrowDown': {
        const next = visible[at + (event.key === 'ArrowUp' ? -1 : 1)];
        return handle(() => next && focusRow(next));
      }
      case 'Home':
        return handle(() => focusRow(visible[0]!));
      case 'End':
        return handle(() => focusRow(visible[visible.length - 1]!));
      case 'Enter':
        return handle(() => setOpened(id, !opened.has(id)));
      case 'ArrowRight':
        return handle(() => setOpened(id, true));
      case 'ArrowLeft':
        return handle(() => setOpened(id, false));
      case 'Delete':
      case 'Backspace':
        return handle(() => {
          const next = strands[place + 1]?.id ?? strands[place - 1]?.id;
          remove(session, id);
          if (next) focusRow(next);
          else scroller.current?.focus();
        });
      case 'F2':
        return handle(() => setRenaming(id));
    }
    if (!letters) return;
    switch (event.key.toLowerCase()) {
      case '/':
        return handle(() => setPicking(true));
      case 'b':
        return handle(() => bypass(session, id));
      case 'p':
        return handle(() => {
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
        });
      case 's':
        return handle(() => swap(session, id));
      case 'r':
        return handle(() => setRenaming(id));
      case 'w':
        return handle(() => setMenu({ id, what: 'wrap' }));
      case 'f':
        return handle(() => setMenu({ id, what: 'feed' }));
    }
  };

  // The slash adds from anywhere on the bench where nothing is being typed.
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.key !== '/' || event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || !lettersAllowed())
        return;
      if (target?.matches('input, textarea, select')) return;
      event.preventDefault();
      setPicking(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const chosenItem = layout.items.find((i) => i.type === 'strand' && i.strand.id === chosen);
  const lastItem = layout.items[layout.items.length - 1];
  const pickerY = Math.max(4, chosenItem ? chosenItem.y + chosenItem.height : lastItem ? lastItem.y + lastItem.height : 4);
  useEffect(() => {
    if (!picking) return;
    const box = scroller.current!;
    if (pickerY + 310 > box.scrollTop + box.clientHeight) box.scrollTop = pickerY + 310 - box.clientHeight;
  }, [picking, pickerY]);

  /** The place in the sheet that a pointer's offset from a row's own place stands for. */
  const placeAt = (id: string, delta: number): number => {
    const middle = (layout.anchor.get(id) ?? 0) + delta;
    const rows = layout.items.flatMap((i) => (i.type === 'strand' ? [i] : []));
    const above = rows.filter((r) => r.strand.id !== id && r.y + ROW / 2 < middle);
    const before = above[above.length - 1];
    return before ? before.place + (before.place < strands.findIndex((s) => s.id === id) ? 1 : 0) : 0;
  };
  const onDragMove = ({ active, delta }: DragMoveEvent) => setDrop((layout.anchor.get(String(active.id)) ?? 0) + delta.y);
  const onDragEnd = ({ active, delta }: DragEndEvent) => {
    setDrop(null);
    const id = String(active.id);
    session.documents.edit(`Move ${strandOf(effect, id).name}`, (draft) => moveStrand(draft, { id, to: placeAt(id, delta.y) }));
    focusRow(id);
  };

  const chosenAt = layout.items.findIndex((i) => i.type === 'strand' && i.strand.id === chosen);
  const rows = useVirtualizer({
    count: layout.items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (k) => layout.items[k]!.height,
    getItemKey: (k) => keyOf(layout.items[k]!),
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
  const seen = rows.getVirtualItems().flatMap(({ index }) => layout.items[index] ?? []);
  const chips = useRef(new Map<string, { key: string; chips: readonly Chip[] }>());
  /** What a row prints, the same object for as long as it prints the same. */
  const chipsFor = (strand: Strand): readonly Chip[] => {
    const made = chipsOf(effect, showing, names, strand);
    const key = JSON.stringify(made);
    const held = chips.current.get(strand.id);
    if (held?.key === key) return held.chips;
    chips.current.set(strand.id, { key, chips: made });
    return made;
  };
  const doing = useRef<RowActions>(null!);
  doing.current = {
    menu: (id, what) => setMenu(what === null ? null : { id, what }),
    rename: (id, on) => {
      setRenaming(on ? id : null);
      if (!on) focusRow(id);
    },
    key: onRowKey,
    addUnder: (id) => {
      choose(session, id);
      setPicking(true);
    },
  };
  const actions = useMemo<RowActions>(
    () => ({
      menu: (...a) => doing.current.menu(...a),
      rename: (...a) => doing.current.rename(...a),
      key: (...a) => doing.current.key(...a),
      addUnder: (...a) => doing.current.addUnder(...a),
    }),
    [],
  );
  const reachable = chosen ?? strands[0]?.id ?? null;
  const errors = problems.length;
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[34px] shrink-0 items-center gap-2 pr-3 pl-4">
        <h2 className="head text-[14px] leading-5">Sheet</h2>
        <span className="text-[12px] text-muted">{strands.length === 1 ? '1 strand' : `${strands.length} strands`}</span>
        {errors > 0 && (
          <span role="status" className="flex items-center gap-1 text-[12px] text-fault">
            <CircleAlert size={13} strokeWidth={1.5} aria-hidden />
            {errors === 1 ? '1 error' : `${errors} errors`}
          </span>
        )}
        <span className="grow" />
        <KeysHelp
          letters={letters}
          onLetters={(on) => {
            setLetters(on);
            try {
              localStorage.setItem(KEYS_SETTING, on ? 'on' : 'off');
            } catch {
              // Not kept in a browser that keeps nothing; it holds for this page.
            }
          }}
        />
        <button className="plain px-1.5 text-ink" onClick={() => setPicking(true)}>
          <Plus size={15} strokeWidth={1.5} aria-hidden />
          Add <kbd>/</kbd>
        </button>
      </div>
      <div ref={scroller} className="scroll relative grow overflow-x-hidden overflow-y-auto" tabIndex={-1}>
        <DndContext
          sensors={sensors}
          onDragMove={onDragMove}
          onDragEnd={onDragEnd}
          onDragCancel={() => setDrop(null)}
          accessibility={{ container: document.body }}
        >
          <div
            role="treegrid"
            aria-label="Strands"
            aria-rowcount={strands.length}
            className="relative"
            style={{ height: Math.max(layout.height, picking ? pickerY + 320 : 0) }}
          >
            {seen.map((item) =>
              item.type === 'section' ? (
                <div
                  key={`section ${item.first}`}
                  role="row"
                  className="absolute right-3 left-11 flex items-center gap-2"
                  style={{ top: item.y, height: item.height }}
                >
                  <span role="gridcell" className="flex grow items-center gap-2">
                    {titling === item.first ? (
                      <input
                        autoFocus
                        className="field head h-[22px] w-[160px] px-1 text-[13px]"
                        aria-label="Title of the section"
                        defaultValue={item.title}
                        maxLength={80}
                        onFocus={(e) => e.currentTarget.select()}
                        onKeyDown={(e) => {
                          e.stopPropagation();
                          if (e.key === 'Enter') e.currentTarget.blur();
                          if (e.key === 'Escape') setTitling(null);
                        }}
                        onBlur={(e) => {
                          const title = e.currentTarget.value.trim();
                          if (title && title !== item.title)
                            session.documents.edit('Rename a section', (draft) =>
                              addSection(draft, { title, first: item.first }),
                            );
                          setTitling(null);
                        }}
                      />
                    ) : (
                      <button
                        className="head flex min-h-6 items-center rounded-sm text-[13px] leading-5"
                        aria-expanded={!item.folded}
                        title="Fold; double-click to rename"
                        onClick={() =>
                          setFolded((f) =>
                            f.has(item.first) ? new Set([...f].filter((x) => x !== item.first)) : new Set([...f, item.first]),
                          )
                        }
                        onDoubleClick={() => setTitling(item.first)}
                      >
                        {item.folded && <ChevronRight size={14} strokeWidth={1.5} className="-ml-0.5 text-muted" aria-hidden />}
                        {item.title}
                        {item.folded && <span className="ml-1.5 text-[12px] font-normal text-muted">{item.count}</span>}
                      </button>
                    )}
                    <span className="h-px grow bg-line" />
                  </span>
                </div>
              ) : (
                <div key={item.strand.id} role="none" className="absolute right-0 left-0" style={{ top: item.y }}>
                  <StrandRow
                    strand={item.strand}
                    chips={chipsFor(item.strand)}
                    place={item.place}
                    height={item.height}
                    opened={item.opened}
                    chosen={item.strand.id === chosen}
                    reachable={item.strand.id === reachable}
                    reading={readings.get(item.strand.id)}
                    problem={troubled.get(item.strand.id) ?? null}
                    renaming={renaming === item.strand.id}
                    menu={menu?.id === item.strand.id ? menu.what : null}
                    actions={actions}
                  />
                </div>
              ),
            )}
            <Threads layout={lines} threads={threads} chosen={chosen} kin={kin} faulty={faulty} />
            {drop !== null && (
              <span className="pointer-events-none absolute right-3 left-11 z-10 h-0.5 bg-ink" style={{ top: drop }} />
            )}
            {strands.length === 0 && !picking && (
              <p className="absolute top-10 right-8 left-11 text-muted">
                The sheet is empty. Press <kbd>/</kbd> and type a few letters: “time”, “noise”, “colour”.
              </p>
            )}
            {picking && (
              <Picker
                y={pickerY}
                onAdd={add}
                onClose={() => {
                  setPicking(false);
                  if (chosen) focusRow(chosen);
                }}
              />
            )}
          </div>
        </DndContext>
      </div>
      {problems.some((p) => p.strand === null) && (
        <p role="alert" className="shrink-0 border-t border-line py-1.5 pr-3 pl-11 text-[12px] leading-4 text-fault">
          {problems.find((p) => p.strand === null)!.message}
        </p>
      )}
      <Surface />
    </div>
  );
}

const KEYS: readonly (readonly [string, string])[] = [
  ['/', 'add a strand'],
  ['↑ ↓', 'go from row to row'],
  ['Enter', 'open or close a row'],
  ['Tab', 'into a row’s controls; Esc comes back'],
  ['Alt ↑ ↓', 'move a strand'],
  ['R', 'rename'],
  ['F', 'feed into an output or an input'],
  ['W', 'wrap: invert, clamp, a new dial'],
  ['S', 'swap the first two inputs'],
  ['B', 'bypass'],
  ['P', 'peek at its value: hold, or press shortly to lock'],
  ['Delete', 'delete; readers take its first input'],
  ['Space', 'play or pause'],
  ['\\', 'only the picture'],
  ["'", 'without bloom and tone curve'],
];

function KeysHelp({ letters, onLetters }: { letters: boolean; onLetters: (on: boolean) => void }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="plain" aria-label="Keys" title="Keys">
          <Keyboard size={16} strokeWidth={1.5} aria-hidden />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu p-3" align="end" sideOffset={6} collisionPadding={8}>
          <dl className="grid grid-cols-[64px_1fr] items-center gap-y-1.5">
            {KEYS.map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <kbd>{key}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
          <button className="button mt-3 w-full" role="switch" aria-checked={letters} onClick={() => onLetters(!letters)}>
            Single-letter keys are {letters ? 'on' : 'off'}
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
