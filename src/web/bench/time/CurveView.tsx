/** The open cue: its curve, whose keys are dragged both ways; one key's numbers; what it does beyond; CSV in and out. */
import { ClipboardPaste, Copy, Layers2, Trash2 } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { byTime, cueAt } from '../../../core/effect/cues.js';
import { own } from '../../../core/base/wholesome.js';
import { dialLabel, strandOf } from '../../../core/effect/edits.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { isColour, isWritten, type Beyond, type Cue, type Dial, type Effect, type Value } from '../../../core/effect/schema.js';
import { readCueCsv, writeCueCsv } from '../../../core/formats/cueCsv.js';
import { changeKeys, deleteKeys, lanesOf, moveKeys, bringKeys, setBeyond } from '../../../session/cueing.js';
import { download } from '../../../session/exports.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { NumberField } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { showReading } from '../../ui/numbers.js';
import { Toggle } from '../../ui/Toggle.js';
import { useBench, useBenchState } from '../../context.js';
import { COLUMNS, levelIn, pathOf, scaleOf, type Scale } from './axis.js';
import { Keys, useChosenKeys } from './Keys.js';

const HEIGHT = 87;
const [TOP, TALL] = [10, 66];

interface Props {
  readonly dial: Dial;
  readonly cue: Cue;
  readonly span: number;
  readonly width: number;
  readonly label: string;
  readonly scale: Scale;
}

export function CurveView({ dial, cue, span, width, label, scale }: Props) {
  const y = (v: number) => TOP + (1 - (v - scale.low) / (scale.high - scale.low)) * TALL;
  const path = useMemo(() => pathOf(cue, scale, span, width, TOP, TALL), [cue, scale, span, width]);
  const grid = [scale.low, (scale.low + scale.high) / 2, scale.high];
  const [withOthers, setWithOthers] = useState(false);
  return (
    <div className={`${COLUMNS} border-t border-line`} style={{ height: HEIGHT }} data-curve={dial.id}>
      <Numbers dial={dial} cue={cue} label={label} />
      <div className="relative h-full bg-base">
        <svg className="absolute inset-0 h-full w-full" aria-hidden>
          {grid.map((v) => (
            <line key={v} x1={0} x2={width} y1={y(v)} y2={y(v)} stroke="var(--color-line)" />
          ))}
          {withOthers && <Others but={dial.id} span={span} width={width} />}
          <path d={path} fill="none" stroke="var(--color-ink)" strokeWidth={1.5} />
        </svg>
        <Keys
          {...{ dial, cue, span, width, label }}
          yOf={(key) => y(levelIn(cue, key.value))}
          perPixelUp={(scale.high - scale.low) / TALL}
        />
      </div>
      <div className="relative h-full">
        {grid.map((v) => (
          <span key={v} className="num absolute left-2 text-[10px] leading-3 text-muted" style={{ top: y(v) - 6 }}>
            {showReading(v)}
          </span>
        ))}
        <Whole dial={dial} cue={cue} label={label} withOthers={withOthers} onWithOthers={setWithOthers} />
      </div>
    </div>
  );
}

/** Pixels from a name to the next under it; how many there is room for. */
const [APART, NAMES] = [12, 6];

/** Where names stand that lie on one another no more, near where they would; undefined for those without room. */
function namesApart(wanted: readonly number[]): (number | undefined)[] {
  const order = wanted.map((_, k) => k).sort((a, b) => wanted[a]! - wanted[b]! || a - b);
  const placed: (number | undefined)[] = wanted.map(() => undefined);
  const named = order.slice(0, NAMES);
  named.forEach((k, row) => {
    const above = row === 0 ? -Infinity : placed[named[row - 1]!]! + APART;
    const lowest = HEIGHT - 6 - (named.length - 1 - row) * APART;
    placed[k] = Math.min(lowest, Math.max(10, above, wanted[k]!));
  });
  return placed;
}

/** The curves of the other cues, each between its own lowest and highest, told by its name at its end. */
function Others({ but, span, width }: { but: string; span: number; width: number }) {
  const effect = useBenchState((s) => s.effect);
  const others = useMemo(
    () =>
      lanesOf(effect)
        .filter(({ dial }) => dial.id !== but)
        .map(({ dial, cue }) => {
          const scale = scaleOf(cue, span);
          const end = (levelIn(cue, cueAt(cue, span)) - scale.low) / (scale.high - scale.low);
          return {
            ...{ id: dial.id, label: dialLabel(effect, dial), path: pathOf(cue, scale, span, width, TOP, TALL) },
            y: TOP + (1 - end) * TALL,
          };
        }),
    [effect, but, span, width],
  );
  const names = namesApart(others.map(({ y }) => y - 3));
  return others.map(({ id, label, path }, k) => (
    <g key={id} data-other={id}>
      <path d={path} fill="none" stroke="var(--color-thread)" strokeDasharray="3 3" />
      {names[k] !== undefined && (
        <text
          x={width - 4}
          y={names[k]}
          textAnchor="end"
          fontSize={10}
          fill="var(--color-muted)"
          // A line behind a name ends before it.
          stroke="var(--color-base)"
          strokeWidth={4}
          paintOrder="stroke"
        >
          {label}
        </text>
      )}
    </g>
  ));
}

const BEYOND = (['hold', 'loop', 'mirror'] as const).map((id) => ({ id, name: id }));

/** The words of the option that a dial turns. */
const wordsFor = (effect: Effect, { strand, input }: Dial): readonly string[] =>
  own(recordOf(effect, strandOf(effect, strand)).options, input)?.values ?? [];

/** One key's time and value, what the cue does beyond its keys, and whether keys stand on frames. */
function Numbers({ dial, cue, label }: Pick<Props, 'dial' | 'cue' | 'label'>) {
  const session = useBench();
  const chosen = useChosenKeys(cue);
  const snap = useBenchState((s) => s.snap);
  const effect = useBenchState((s) => s.effect);
  const keys = byTime(cue.keys);
  const k = chosen[0] ?? 0;
  const key = keys[k] ?? keys[0]!;
  const done = () => session.documents.endGesture();
  const set = (value: Value) => changeKeys(session, dial.id, chosen.length > 0 ? chosen : [k], { value });
  return (
    <div className="grid grid-cols-[70px_1fr] items-center gap-x-1 gap-y-[3px] self-start py-1 pr-3 pl-4 text-[12px] text-muted">
      <span>{chosen.length > 1 ? `${chosen.length} of ${keys.length}` : `Key ${k + 1} of ${keys.length}`}</span>
      <span className="flex gap-1">
        <NumberField
          label={`${label} key time`}
          value={Math.round(key.time * 1000) / 1000}
          unit="s"
          step={0.01}
          low={0}
          width={72}
          onChange={(v) => moveKeys(session, { from: session.store.getState().effect, dial: dial.id, keys: [k] }, v - key.time)}
          onDone={done}
        />
        {typeof key.value === 'number' && (
          <NumberField label={`${label} key value`} value={key.value} step={0.01} width={72} onChange={set} onDone={done} />
        )}
        {isColour(key.value) && <ColourButton label={`${label} key`} colour={key.value} onChange={set} onDone={done} />}
        {isWritten(key.value) && (
          <Select
            label={`${label} key`}
            className="button min-h-[22px] px-2 text-[12px]"
            value={key.value.text}
            choices={wordsFor(effect, dial).map((id) => ({ id, name: id }))}
            onChoose={(text) => (set({ text }), done())}
          />
        )}
        {Array.isArray(key.value) &&
          key.value
            .slice(0, 3)
            .map((v, j) => (
              <NumberField
                key={j}
                label={`${label} key ${'xyzw'[j]}`}
                value={v}
                step={0.01}
                width={34}
                onChange={(n) => set((key.value as number[]).map((old, i) => (i === j ? n : old)))}
                onDone={done}
              />
            ))}
      </span>
      <span>Before, after</span>
      <span className="flex gap-1">
        {(['before', 'after'] as const).map((end) => (
          <Select
            key={end}
            label={`${label}, ${end} its keys`}
            className="button min-h-[22px] px-2 text-[12px]"
            value={cue[end] ?? 'hold'}
            choices={BEYOND}
            onChoose={(how) => setBeyond(session, dial.id, { [end]: how as Beyond })}
          />
        ))}
      </span>
      <label className="col-span-2 flex items-center justify-between pr-1">
        Snap to frames
        <Toggle label="Snap to frames" on={snap} onChange={(on) => session.store.setState({ snap: on })} />
      </label>
    </div>
  );
}

interface WholeProps extends Pick<Props, 'dial' | 'cue' | 'label'> {
  readonly withOthers: boolean;
  readonly onWithOthers: (on: boolean) => void;
}

/** Other curves beside it; copy, paste, delete; and the whole cue as a file. */
function Whole({ dial, cue, label, withOthers, onWithOthers }: WholeProps) {
  const session = useBench();
  const others = useBenchState((s) => s.effect.cues.length > 1);
  const chosen = useChosenKeys(cue);
  const keys = byTime(cue.keys);
  const run = chosen.length > 0 ? chosen.map((k) => keys[k]!) : keys;
  const tell = (notice: string) => session.store.setState({ notice });
  const bring = (text: string, at?: number) => {
    const read = readCueCsv(text, keys[0]!.value, wordsFor(session.store.getState().effect, dial));
    if (read.ok) bringKeys(session, dial.id, read.keys, at ?? read.keys[0]!.time);
    else tell(read.why);
  };
  return (
    <div className="absolute top-1 right-2 flex h-[78px] flex-col items-end justify-between text-[12px]">
      <span className="flex">
        {others && (
          <button
            className={`plain h-6 w-6 ${withOthers ? 'text-ink' : ''}`}
            aria-pressed={withOthers}
            aria-label="The curves of the other cues"
            title="The curves of the other cues beside it, each between its own ends"
            onClick={() => onWithOthers(!withOthers)}
          >
            <Layers2 size={13} strokeWidth={1.5} aria-hidden />
          </button>
        )}
        <button
          className="plain h-6 w-6"
          aria-label={`Copy keys of ${label}`}
          title="Copy the chosen keys, or all, as text"
          onClick={() =>
            void navigator.clipboard
              .writeText(writeCueCsv({ keys: run }))
              .catch(() => tell('The clipboard could not be written.'))
          }
        >
          <Copy size={13} strokeWidth={1.5} aria-hidden />
        </button>
        <button
          className="plain h-6 w-6"
          aria-label={`Paste keys into ${label}`}
          title="Paste keys at the playhead"
          onClick={() =>
            void navigator.clipboard
              .readText()
              .then((text) => bring(text, session.clock.time))
              .catch(() => tell('The clipboard could not be read.'))
          }
        >
          <ClipboardPaste size={13} strokeWidth={1.5} aria-hidden />
        </button>
        <button
          className="plain h-6 w-6"
          aria-label={`Delete chosen keys of ${label}`}
          title="Delete the chosen keys  Delete"
          disabled={chosen.length === 0}
          onClick={() => deleteKeys(session, dial.id, chosen)}
        >
          <Trash2 size={13} strokeWidth={1.5} aria-hidden />
        </button>
      </span>
      <Csv cue={cue} label={label} onText={(text) => bring(text)} />
    </div>
  );
}

/** The whole cue as a file of comma-separated values, in and out. */
function Csv({ cue, label, onText }: Pick<Props, 'cue' | 'label'> & { readonly onText: (text: string) => void }) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <span className="flex">
      <button className="plain px-1" title="Keys from a file of comma-separated values" onClick={() => file.current?.click()}>
        CSV in
      </button>
      <button
        className="plain px-1"
        title="All keys as a file of comma-separated values"
        onClick={() =>
          download(`${label.toLowerCase().replace(/[^a-z0-9]+/g, '-')}.csv`, new Blob([writeCueCsv(cue)], { type: 'text/csv' }))
        }
      >
        CSV out
      </button>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        className="hidden"
        aria-label={`Keys for ${label}`}
        onChange={(e) => {
          const picked = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          void picked?.text().then(onText);
        }}
      />
    </span>
  );
}
