/** The dials: the few numbers that matter, tuned on the variant that is shown or on one prop alone. */
import {
  DndContext,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { useState, type ReactNode } from 'react';
import { Popover } from 'radix-ui';
import { ChevronDown, ChevronRight, Undo } from 'lucide-react';
import { own as ownOf } from '../../../core/base/wholesome.js';
import { changeDial, dialLabel, moveDial, strandOf } from '../../../core/effect/edits.js';
import { factorOf, isColour, isWritten, type Dial, type Effect, type Value } from '../../../core/effect/schema.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { inputRecord, type InputRecord, type OptionRecord } from '../../../core/operators/record.js';
import { pieceName } from '../../../core/scene/pieces.js';
import type { Bench } from '../../../session/bench.js';
import { followVariant, setLiteral, setOptionTo } from '../../../session/actions.js';
import { BASE, literalOf, optionShown, type Showing } from '../../../session/showing.js';
import { toHsv } from '../../ui/colour.js';
import { Select } from '../../ui/Select.js';
import { showNumber } from '../../ui/numbers.js';
import { PopoverContent } from '../../ui/PopoverContent.js';
import { ownKeys } from '../../ui/keys.js';
import { controlFor, unitOf, type Turned } from './DialControls.js';
import { DialSettings, grouped } from './DialSettings.js';
import { SharedRow, sharedRead } from './SharedRows.js';
import { useBench, useBenchState, useShowing } from '../../context.js';
import { KeyMark, useCue, useCueValue } from '../KeyMark.js';

/** A factor told in stops. */
const stopsText = (factor: number) =>
  factor > 0 ? `${factor >= 1 ? '+' : '−'}${Math.abs(Math.log2(factor)).toFixed(1)} stops` : '';

/** A value in words, where words can tell it. */
function valueText(value: Value | undefined): string {
  if (isColour(value))
    return `${Math.round(toHsv(value.rgb).hue)}°${value.intensity === 1 ? '' : ` × ${showNumber(value.intensity)}`}`;
  if (typeof value === 'number') return showNumber(value);
  return Array.isArray(value) ? value.map(showNumber).join(' ') : '';
}

/** What stands under a dial's name: whose value it is where it is not the base's, and a factor's stops. */
function underDial(turned: Turned<Value>, differs: boolean, mine: string | null): string {
  const { value, base, dial, record } = turned;
  const whose = mine !== null ? `own value of ${mine}` : differs ? `differs from Base, ${valueText(base)}` : '';
  // A hue's intensity stands beside it as a factor or in stops: here the other of them.
  const factor = isColour(value) ? factorOf(value.intensity, value.unit) : 1;
  const shines = factor === 1 ? '' : isColour(value) && value.unit === 'stops' ? `× ${showNumber(factor)}` : stopsText(factor);
  const stops = unitOf(dial, record) === 'x' && typeof value === 'number' ? stopsText(value) : shines;
  return [whose, stops].filter(Boolean).join(' · ');
}

const heldText = (recording: boolean) => `held by a cue${recording ? '; turning it keys it' : '; Record is off'}`;

const Under = ({ text }: { text: string }) => (
  <span className="col-span-full -mt-1 truncate pl-[11px] text-[11px] leading-4 text-muted">{text}</span>
);

/** A dial's row is dragged by its name, onto another row whose place it takes. */
function useMoving(id: string) {
  const drag = useDraggable({ id });
  const drop = useDroppable({ id });
  const over = drop.isOver && drop.active?.id !== id;
  return {
    row: drop.setNodeRef,
    handle: { ref: drag.setNodeRef, ...drag.listeners },
    look: `${drag.isDragging ? 'opacity-50' : ''} ${over ? 'shadow-[0_-1px_0_var(--color-ink)]' : ''}`,
  };
}

interface RowProps {
  readonly effect: Effect;
  readonly dial: Dial;
  readonly showing: Showing;
}

function DialRow({ effect, dial, showing }: RowProps) {
  const session = useBench();
  const propName = useBenchState((s) => pieceName(s.stage, s.prop));
  const label = dialLabel(effect, dial);
  const record = inputRecord(recordOf(effect, strandOf(effect, dial.strand)), dial.input);
  const cue = useCue(dial.strand, dial.input);
  const recording = useBenchState((s) => s.record);
  const cued = useCueValue(cue);
  const moving = useMoving(dial.id);
  const own = literalOf(effect, showing, dial.strand, dial.input);
  const value = cued ?? own;
  const base = literalOf(effect, BASE, dial.strand, dial.input);
  const option = ownOf(recordOf(effect, strandOf(effect, dial.strand)).options, dial.input);
  if (option) return <OptionRow effect={effect} dial={dial} showing={showing} option={option} />;
  if (!record || value === undefined) return null;
  const turned: Turned<Value> = {
    ...{ label, value, dial, record, base, held: cue !== undefined && !recording },
    set: (v) => setLiteral(session, dial.strand, dial.input, v),
    done: () => session.documents.endGesture(),
  };
  const control = controlFor(effect, turned);
  if (control === null) return null;
  const differs = JSON.stringify(own) !== JSON.stringify(base);
  const mine = Object.hasOwn(showing.overrides, dial.id) ? propName : null;
  const under = cue ? heldText(recording) : underDial(turned, differs, mine);
  return (
    <div
      ref={moving.row}
      className={`grid h-10 grid-cols-[minmax(104px,1fr)_minmax(56px,1.6fr)_76px_16px] items-center gap-x-2.5 ${under ? 'grid-rows-[24px_16px]' : ''} ${moving.look}`}
      data-dial={dial.id}
    >
      <span
        {...moving.handle}
        className="flex min-w-0 items-center gap-1.5"
        title={dial.about ?? `${label}: ${record.note}. Press for its settings, drag it to another place`}
      >
        {mine !== null ? (
          <button
            className="-ml-1.5 flex h-6 w-3 shrink-0 items-center justify-center rounded-sm text-ink"
            aria-label={`${label} as in the variant`}
            title="This prop's own value. Press to take it back to the variant's"
            onClick={() => followVariant(session, dial)}
          >
            <Undo size={12} strokeWidth={1.75} aria-hidden />
          </button>
        ) : (
          <span
            className={`h-[5px] w-[5px] shrink-0 rounded-full ${differs ? 'bg-ink' : ''}`}
            aria-label={differs ? 'differs from the base' : undefined}
          />
        )}
        <Settings label={label}>
          <DialSettings
            dial={dial}
            record={record}
            starts={valueText(base)}
            now={differs ? `now ${valueText(own)}` : ''}
            onReset={differs && base !== undefined ? () => (turned.set(base), turned.done()) : null}
          />
        </Settings>
      </span>
      {control}
      <KeyMark strand={dial.strand} input={dial.input} label={label} />
      {under !== '' && <Under text={under} />}
    </div>
  );
}

/** The group of those that the library has: no group of the effect's own is called so. */
const SHARED = ' shared';

/** A dial of an option: one of some words. */
function OptionRow({ effect, dial, showing, option }: RowProps & { option: OptionRecord }) {
  const session = useBench();
  const moving = useMoving(dial.id);
  const label = dialLabel(effect, dial);
  const [now, base] = [showing, BASE].map((s) => optionShown(effect, s, dial.strand, dial.input) ?? option.default) as [
    string,
    string,
  ];
  const record: InputRecord = { kind: '1', default: [], soft: [0, 1], note: option.note };
  const choose = (value: string) => setOptionTo(session, dial.strand, dial.input, value);
  const cue = useCue(dial.strand, dial.input);
  const recording = useBenchState((s) => s.record);
  const said = useCueValue(cue);
  const under = cue ? heldText(recording) : '';
  return (
    <div
      ref={moving.row}
      className={`grid h-10 grid-cols-[minmax(104px,1fr)_minmax(56px,1.6fr)_16px] items-center gap-x-2.5 ${under ? 'grid-rows-[24px_16px]' : ''} ${moving.look}`}
      data-dial={dial.id}
    >
      <span {...moving.handle} className="flex min-w-0 items-center gap-1.5" title={dial.about ?? `${label}: ${option.note}`}>
        <span
          className={`h-[5px] w-[5px] shrink-0 rounded-full ${now === base ? '' : 'bg-ink'}`}
          aria-label={now === base ? undefined : 'differs from the base'}
        />
        <Settings label={label}>
          <DialSettings
            dial={dial}
            record={record}
            starts={base}
            now={now === base ? '' : `now ${now}`}
            onReset={now === base ? null : () => choose(base)}
          />
        </Settings>
      </span>
      <Select
        label={label}
        className="button min-h-[24px] justify-self-end px-2 text-[12px]"
        value={said !== undefined && isWritten(said) ? said.text : now}
        choices={option.values.map((v) => ({ id: v, name: v }))}
        onChoose={choose}
      />
      <KeyMark strand={dial.strand} input={dial.input} label={label} />
      {under !== '' && <Under text={under} />}
    </div>
  );
}

/** A dial's name, which opens its settings. */
function Settings({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="min-w-0 truncate rounded-sm text-left hover:text-ink" aria-label={`Settings of ${label}`}>
          {label}
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label={`Dial ${label}`}
        side="top"
        align="start"
        sideOffset={8}
        className="w-[324px] p-4"
        onKeyDown={ownKeys}
      >
        {children}
      </PopoverContent>
    </Popover.Root>
  );
}

/** Dials beyond which they can be searched by name. */
const MANY = 12;

/** Puts a dial where another stands, and into its group. */
function putDial(session: Bench, { active, over }: DragEndEvent): void {
  const { effect } = session.store.getState();
  const to = effect.dials.findIndex((d) => d.id === over?.id);
  const dial = effect.dials.find((d) => d.id === active.id);
  if (to < 0 || !dial || over?.id === active.id) return;
  const { group } = effect.dials[to]!;
  session.documents.edit(`Move ${dialLabel(effect, dial)}`, (draft) => {
    if ((dial.group ?? '') !== (group ?? '')) changeDial(draft, { id: dial.id, group: group ?? '' });
    moveDial(draft, { id: dial.id, to });
  });
}

export function Dials() {
  const session = useBench();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={(e) => putDial(session, e)}>
      <AllDials />
    </DndContext>
  );
}

function AllDials() {
  const effect = useBenchState((s) => s.effect);
  const showing = useShowing();
  const [wanted, setWanted] = useState('');
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const found = effect.dials.filter((d) => dialLabel(effect, d).toLowerCase().includes(wanted.trim().toLowerCase()));
  const shared = sharedRead(effect).filter((d) => d.name.toLowerCase().includes(wanted.trim().toLowerCase()));
  const groups = grouped({ ...effect, dials: found });
  const differ = (dials: readonly Dial[]) =>
    dials.filter((d) => {
      const [now, base] = [showing, BASE].map((s) =>
        JSON.stringify([literalOf(effect, s, d.strand, d.input), optionShown(effect, s, d.strand, d.input)]),
      );
      return now !== base;
    }).length;
  const fold = (group: string) =>
    setFolded((was) => new Set(was.has(group) ? [...was].filter((g) => g !== group) : [...was, group]));
  return (
    <div className="scroll grid h-full auto-rows-[40px] grid-cols-[repeat(auto-fill,minmax(min(296px,100%),1fr))] content-start gap-x-9 overflow-y-auto px-2 py-1.5">
      {effect.dials.length > MANY && (
        <input
          className="field col-span-full h-6 w-[148px] self-center px-2"
          aria-label="Find a dial"
          placeholder={`Find among ${effect.dials.length}`}
          value={wanted}
          onChange={(e) => setWanted(e.currentTarget.value)}
        />
      )}
      {/* One list: a dial that goes to another group stays the same row, with what is open on it. */}
      {groups.flatMap(({ group, dials }) => [
        group !== '' && (
          <GroupHead
            key={`group ${group}`}
            {...{ name: group, count: dials.length, differ: differ(dials), folded: folded.has(group) }}
            onFold={() => fold(group)}
          />
        ),
        ...(folded.has(group) ? [] : dials.map((d) => <DialRow key={d.id} effect={effect} dial={d} showing={showing} />)),
      ])}
      {shared.length > 0 && (
        <GroupHead
          {...{ name: 'Shared', count: shared.length, differ: 0, folded: folded.has(SHARED) }}
          onFold={() => fold(SHARED)}
        />
      )}
      {!folded.has(SHARED) && shared.map((d) => <SharedRow key={d.id} effect={effect} dial={d} />)}
      {effect.dials.length === 0 && (
        <p className="col-span-full px-2 py-2 text-muted">
          No dials yet. Open a strand and choose “Make a dial” beside a number that matters; it is tuned here from then on.
        </p>
      )}
      {effect.dials.length > 0 && found.length === 0 && (
        <p className="col-span-full px-2 py-2 text-muted">No dial is called so.</p>
      )}
    </div>
  );
}

interface HeadProps {
  readonly name: string;
  readonly count: number;
  readonly differ: number;
  readonly folded: boolean;
  readonly onFold: () => void;
}

function GroupHead({ name, count, differ, folded, onFold }: HeadProps) {
  const Fold = folded ? ChevronRight : ChevronDown;
  return (
    <button className="col-span-full flex h-6 items-center gap-1.5 self-end text-left" aria-expanded={!folded} onClick={onFold}>
      <Fold size={13} strokeWidth={1.5} className="text-muted" aria-hidden />
      <span className="head text-[13px]">{name}</span>
      <span className="num text-muted">{count}</span>
      {differ > 0 && <span className="text-[12px] text-muted">{differ} differ</span>}
      <span className="ml-1 h-px grow bg-line" />
    </button>
  );
}
