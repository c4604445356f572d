/** What a dial says of itself: its name, unit, group and words; how far it goes, by what steps; where it starts; who reads it. */
import { ArrowDown, ArrowUp } from 'lucide-react';
import { ToggleGroup } from 'radix-ui';
import type { ReactNode } from 'react';
import { changeDial, dialLabel, moveDial, removeDial, strandOf, type DialChange } from '../../../core/effect/edits.js';
import type { Dial, Effect } from '../../../core/effect/schema.js';
import { inputLabel, type InputRecord } from '../../../core/operators/record.js';
import { NumberField, shownUnit } from '../../ui/NumberField.js';
import { useTyped } from '../../ui/useTyped.js';
import { useBench, useBenchState } from '../../context.js';

interface Props {
  readonly dial: Dial;
  readonly record: InputRecord;
  /** Its value in the base, in words; and what takes it back there. */
  readonly starts: string;
  readonly now: string;
  readonly onReset: (() => void) | null;
}

const Line = ({ name, children }: { name: string; children: ReactNode }) => (
  <div className="grid grid-cols-[60px_1fr] items-center gap-y-1">
    <span className="text-muted">{name}</span>
    <span className="flex min-w-0 items-center gap-1.5">{children}</span>
  </div>
);

/** A text that is kept when it is left or Enter is pressed. */
function TextField({
  label,
  was,
  hint,
  list,
  onText,
}: {
  label: string;
  was: string;
  hint: string;
  list?: string;
  onText: (text: string) => void;
}) {
  const { field } = useTyped(was, (text) => onText(text.trim()));
  return (
    <input
      className="field h-6 min-w-0 grow px-1.5"
      aria-label={label}
      placeholder={hint}
      maxLength={80}
      {...(list ? { list } : {})}
      {...field}
    />
  );
}

/** A number that may be left out. */
function LimitField({
  label,
  value,
  unit,
  rests,
  onChange,
}: {
  label: string;
  value: number | null;
  unit: string;
  rests: number;
  onChange: (value: number | null) => void;
}) {
  const session = useBench();
  if (value === null)
    return (
      <button
        className="field h-6 w-[72px] px-1.5 text-left text-muted"
        aria-label={`${label}: none`}
        title="None. Press to set one"
        onClick={() => onChange(rests)}
      >
        none
      </button>
    );
  return (
    <span className="relative flex">
      <NumberField
        label={label}
        value={value}
        unit={unit}
        width={72}
        onChange={onChange}
        onDone={() => session.documents.endGesture()}
      />
      <button
        className="plain absolute -top-1 -right-2 h-4 w-4 text-[10px] opacity-0 hover:opacity-100 focus-visible:opacity-100"
        aria-label={`No ${label.toLowerCase()}`}
        title="None"
        onClick={() => onChange(null)}
      >
        ×
      </button>
    </span>
  );
}

/** Changes what a dial says of itself. @param merge joins the steps of one drag */
function useChange(dial: Dial) {
  const session = useBench();
  return (next: DialChange, merge: string | null = null) =>
    session.documents.edit(
      `Settings of ${dialLabel(session.store.getState().effect, dial)}`,
      (draft) => changeDial(draft, { id: dial.id, ...next }),
      merge && `dial ${dial.id} ${merge}`,
    );
}

export function DialSettings({ dial, record, starts, now, onReset }: Props) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const label = dialLabel(effect, dial);
  const groups = [...new Set(effect.dials.flatMap((d) => d.group ?? []))];
  const change = useChange(dial);
  return (
    <div className="flex flex-col gap-1.5 text-[12px]">
      <Head dial={dial} effect={effect} label={label} />
      <Line name="Name">
        <TextField
          label="Name of the dial"
          was={dial.label ?? ''}
          hint={dialLabel(effect, { ...dial, label: '' })}
          onText={(text) => change({ label: text })}
        />
      </Line>
      <Line name="Unit">
        <span className="flex w-[72px]">
          <TextField
            label="Unit of the dial"
            was={dial.unit ?? record.unit ?? ''}
            hint="none"
            onText={(text) => change({ unit: text })}
          />
        </span>
        <span className="text-muted">Group</span>
        <TextField
          label="Group of the dial"
          was={dial.group ?? ''}
          hint="none"
          list="dial-groups"
          onText={(text) => change({ group: text })}
        />
        <datalist id="dial-groups">
          {groups.map((g) => (
            <option key={g} value={g} />
          ))}
        </datalist>
      </Line>
      <About was={dial.about ?? ''} hint={record.note} onText={(about) => change({ about })} />
      {record.kind !== 'rgb' && typeof record.default === 'number' && <Numeric dial={dial} record={record} />}
      <Line name="Starts at">
        <span className="num">{starts}</span>
        <span className="text-muted">{now}</span>
      </Line>
      <div className="-mx-4 mt-1 flex items-center gap-2 border-t border-line px-4 pt-3">
        <span className="text-muted">Turns</span>
        <button
          className="chip chip-strand hover:border-edge"
          title="Show it in the sheet"
          onClick={() => session.choosing.only(dial.strand)}
        >
          {strandOf(effect, dial.strand).name}.{inputLabel(dial.input)}
        </button>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <button className="button" disabled={onReset === null} onClick={() => onReset?.()}>
          Reset to {starts}
        </button>
        <button
          className="plain px-1"
          onClick={() => session.documents.edit(`Remove the dial ${label}`, (draft) => removeDial(draft, { id: dial.id }))}
        >
          No longer a dial
        </button>
      </div>
    </div>
  );
}

/** Which of the dials it is, and moving it among them. */
function Head({ dial, effect, label }: { dial: Dial; effect: Effect; label: string }) {
  const session = useBench();
  const place = effect.dials.findIndex((d) => d.id === dial.id);
  const move = (by: number) =>
    session.documents.edit(`Move ${label}`, (draft) => moveDial(draft, { id: dial.id, to: place + by }));
  return (
    <div className="mb-1 flex items-center gap-1">
      <h3 className="head grow text-[14px] leading-5">
        Dial <span className="ml-1 font-sans text-[12px] font-normal text-muted">{`${place + 1} of ${effect.dials.length}`}</span>
      </h3>
      <button
        className="plain h-6 w-6"
        aria-label={`${label}: earlier`}
        title="Earlier among the dials"
        disabled={place === 0}
        onClick={() => move(-1)}
      >
        <ArrowUp size={13} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain h-6 w-6"
        aria-label={`${label}: later`}
        title="Later among the dials"
        disabled={place === effect.dials.length - 1}
        onClick={() => move(1)}
      >
        <ArrowDown size={13} strokeWidth={1.5} aria-hidden />
      </button>
    </div>
  );
}

/** How far a number goes: a range that widens, limits that hold, steps, and how it is spread along its slider. */
function Numeric({ dial, record }: Pick<Props, 'dial' | 'record'>) {
  const session = useBench();
  const change = useChange(dial);
  const unit = shownUnit(dial.unit ?? record.unit ?? '');
  const [low, high] = dial.soft ?? record.soft;
  const [least, most] = dial.hard ?? [null, null];
  const limits = (from: number | null, to: number | null) =>
    change({ hard: from === null && to === null ? undefined : [from, to] }, 'limits');
  const field = (name: string, value: number, set: (v: number) => void, step = 0.01) => (
    <NumberField
      label={name}
      value={value}
      unit={unit}
      step={step}
      width={72}
      onChange={set}
      onDone={() => session.documents.endGesture()}
    />
  );
  return (
    <>
      <Line name="Range">
        {field('Range from', low, (v) => change({ soft: [Math.min(v, high), high] }, 'range'))}
        <span className="text-muted">to</span>
        {field('Range to', high, (v) => change({ soft: [low, Math.max(v, low)] }, 'range'))}
        <span className="text-muted">widens</span>
      </Line>
      <Line name="Limits">
        <LimitField label="Lower limit" value={least} unit={unit} rests={low} onChange={(v) => limits(v, most)} />
        <span className="text-muted">to</span>
        <LimitField label="Upper limit" value={most} unit={unit} rests={high} onChange={(v) => limits(least, v)} />
        <span className="text-muted">hard</span>
      </Line>
      <Line name="Step">
        {field('Step', dial.step ?? Math.max(0.001, (high - low) / 100), (v) => v > 0 && change({ step: v }, 'step'), 0.001)}
        <span className="grow" />
        <span className="text-muted">Scale</span>
        <ToggleGroup.Root
          type="single"
          aria-label="Scale"
          className="flex"
          value={dial.scale ?? 'linear'}
          onValueChange={(v) => v && change({ scale: v as 'linear' | 'log' })}
        >
          <ToggleGroup.Item value="linear" className="segment">
            even
          </ToggleGroup.Item>
          <ToggleGroup.Item
            value="log"
            className="segment"
            disabled={low <= 0}
            title={low <= 0 ? 'A range that begins above 0 can be logarithmic' : 'Evenly by factors'}
          >
            log
          </ToggleGroup.Item>
        </ToggleGroup.Root>
      </Line>
    </>
  );
}

function About({ was, hint, onText }: { was: string; hint: string; onText: (text: string) => void }) {
  const { field } = useTyped(was, (text) => onText(text.trim()));
  return (
    <div className="grid grid-cols-[60px_1fr]">
      <span className="pt-1 text-muted">About</span>
      <textarea
        className="field h-[42px] resize-none px-1.5 py-1 leading-4"
        aria-label="About the dial"
        placeholder={hint}
        maxLength={400}
        {...field}
      />
    </div>
  );
}

/** Dials by group, in the order in which groups are first met; those without one first, under no head. */
export function grouped(effect: Effect): { readonly group: string; readonly dials: readonly Dial[] }[] {
  const groups = new Map<string, Dial[]>([['', []]]);
  for (const dial of effect.dials) groups.set(dial.group ?? '', [...(groups.get(dial.group ?? '') ?? []), dial]);
  return [...groups].flatMap(([group, dials]) => (dials.length > 0 ? [{ group, dials }] : []));
}
