/** What turns a dial: a hue, a seed, a number along its range, several numbers. */
import { Dices, Minus, Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import { dialLabel } from '../../../core/effect/edits.js';
import { factorOf, isColour, type Colour, type Dial, type Effect, type Value } from '../../../core/effect/schema.js';
import type { InputRecord } from '../../../core/operators/record.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { fromHsv, toHsv } from '../../ui/colour.js';
import { NumberField } from '../../ui/NumberField.js';
import { Slider } from '../../ui/Slider.js';

const isSeed = (effect: Effect, dial: Dial) => dial.input === 'seed' || /\bseed\b/i.test(dialLabel(effect, dial));

/** What a dial's control is given: the value it shows, and what turns it. */
export interface Turned<T extends Value> {
  readonly label: string;
  readonly value: T;
  readonly dial: Dial;
  readonly record: InputRecord;
  /** Its value in the base. */
  readonly base: Value | undefined;
  /** A cue holds it, and it is not recorded. */
  readonly held: boolean;
  readonly set: (value: Value) => void;
  readonly done: () => void;
}

export const unitOf = (dial: Dial, record: InputRecord) => dial.unit ?? record.unit ?? '';

/** A hue along all hues, and beside it how bright it shines; its degrees are told where it is opened. */
function HueControl({ label, value, held, set, done }: Turned<Colour>) {
  const hsv = toHsv(value.rgb);
  const turn = (hue: number) => set({ ...value, rgb: fromHsv({ ...hsv, saturation: hsv.saturation || 0.8, hue }) });
  return (
    <>
      <span className="flex items-center gap-2">
        <ColourButton label={label} colour={value} onChange={set} onDone={done} />
        <Slider label={label} value={hsv.hue} low={0} high={360} hues held={held} onChange={turn} onDone={done} />
      </span>
      <NumberField
        label={`${label} dial intensity`}
        value={value.intensity}
        unit={value.unit === 'stops' ? 'stops' : 'x'}
        step={0.1}
        low={value.unit === 'stops' ? null : 0}
        onChange={(intensity) => set({ ...value, intensity })}
        onDone={done}
      />
    </>
  );
}

function SeedControl({ label, value, set, done }: Turned<number>) {
  const to = (seed: number) => (set(seed), done());
  return (
    <span className="col-span-2 flex items-center justify-end gap-1">
      <button className="plain" aria-label={`${label}: one less`} onClick={() => to(Math.round(value) - 1)}>
        <Minus size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <NumberField label={`${label} value`} value={value} step={1} width={56} onChange={set} onDone={done} />
      <button className="plain" aria-label={`${label}: one more`} onClick={() => to(Math.round(value) + 1)}>
        <Plus size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="button min-h-6 px-1.5"
        aria-label={`${label}: any other`}
        title="Any other"
        onClick={() => to(Math.floor(Math.random() * 1000))}
      >
        <Dices size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </span>
  );
}

function NumberControl({ label, value, dial, record, base, held, set, done }: Turned<number>) {
  const [least, most] = dial.soft ?? record.soft;
  // A prop's own value may lie beyond the range of the dial, which belongs to the effect.
  const [low, high] = [Math.min(least, value), Math.max(most, value)];
  const hold = (v: number) => Math.max(dial.hard?.[0] ?? -Infinity, Math.min(dial.hard?.[1] ?? Infinity, v));
  return (
    <>
      <Slider
        label={label}
        value={value}
        low={low}
        high={high}
        log={dial.scale === 'log' && low > 0}
        held={held}
        {...(dial.step ? { step: dial.step } : {})}
        {...(typeof base === 'number' ? { mark: base } : {})}
        onChange={(v) => set(hold(v))}
        onDone={done}
      />
      <NumberField
        label={`${label} value`}
        value={value}
        unit={unitOf(dial, record)}
        step={dial.step ?? Math.max(0.001, (high - low) / 100)}
        low={dial.hard?.[0] ?? null}
        high={dial.hard?.[1] ?? null}
        onChange={set}
        onDone={done}
      />
    </>
  );
}

function VectorControl({ label, value, record, set, done }: Turned<number[]>) {
  if (record.kind === 'rgb')
    return (
      <span className="col-span-2 flex items-center">
        <ColourButton
          label={label}
          colour={{ rgb: value as [number, number, number], intensity: 1, unit: 'factor' }}
          onChange={(c) => set(c.rgb.map((v) => v * factorOf(c.intensity, c.unit)))}
          onDone={done}
        />
      </span>
    );
  return (
    <span className="col-span-2 flex items-center gap-1">
      {value.map((v, k) => (
        <NumberField
          key={k}
          label={`${label} ${'xyzw'[k]}`}
          value={v}
          step={0.01}
          width={44}
          onChange={(n) => set(value.map((old, j) => (j === k ? n : old)))}
          onDone={done}
        />
      ))}
    </span>
  );
}

/** What turns a value of this kind; null for one that no dial turns. */
export function controlFor(effect: Effect, turned: Turned<Value>): ReactNode {
  const { value, dial } = turned;
  if (isColour(value)) return <HueControl {...turned} value={value} />;
  if (typeof value === 'number')
    return isSeed(effect, dial) ? <SeedControl {...turned} value={value} /> : <NumberControl {...turned} value={value} />;
  return Array.isArray(value) ? <VectorControl {...turned} value={value} /> : null;
}
