/** Hue and intensity, apart from each other; intensity as a factor or in stops. */
import { Popover } from 'radix-ui';
import { useRef, type ReactNode } from 'react';
import { factorOf, type Colour } from '../../core/effect/schema.js';
import { cssColour, fromHsv, hsvOf, type Hsv } from './colour.js';
import { NumberField, shownUnit } from './NumberField.js';
import { Slider } from './Slider.js';
import { ownKeys } from './keys.js';
import { PopoverContent } from './PopoverContent.js';

interface Props {
  readonly label: string;
  readonly colour: Colour;
  readonly onChange: (colour: Colour) => void;
  readonly onDone: () => void;
}

const PARTS = [
  { key: 'hue', label: 'Hue', unit: 'deg', high: 360, step: 1 },
  { key: 'saturation', label: 'Saturation', unit: '', high: 1, step: 0.01 },
  { key: 'value', label: 'Lightness', unit: '', high: 1, step: 0.01 },
] as const;

export function ColourPanel({ label, colour, onChange, onDone }: Props) {
  // A grey has no hue and black no saturation: what was turned last stands for them.
  const turned = useRef<Hsv | null>(null);
  const hsv = hsvOf(colour.rgb, turned.current);
  const set = (change: Partial<Hsv>) => {
    turned.current = { ...hsv, ...change };
    onChange({ ...colour, rgb: fromHsv(turned.current) });
  };
  const factor = factorOf(colour.intensity, colour.unit);
  const other =
    colour.unit === 'stops'
      ? `${factor.toPrecision(3)}×`
      : factor > 0
        ? `${Math.log2(factor) >= 0 ? '+' : '−'}${Math.abs(Math.log2(factor)).toFixed(1)} st`
        : '';
  const flip = () =>
    onChange(
      colour.unit === 'stops'
        ? { ...colour, unit: 'factor', intensity: Number(factor.toPrecision(6)) }
        : { ...colour, unit: 'stops', intensity: Number(Math.log2(Math.max(factor, 1e-6)).toPrecision(6)) },
    );
  return (
    <div className="grid grid-cols-[72px_120px_72px] items-center gap-x-3 gap-y-1">
      {PARTS.map(({ key, label: part, unit, high, step }) => (
        <div key={key} className="contents">
          <span className="text-muted">{part}</span>
          <Slider
            label={`${label} ${part.toLowerCase()}`}
            value={hsv[key]}
            low={0}
            high={high}
            hues={key === 'hue'}
            onChange={(v) => set({ [key]: v })}
            onDone={onDone}
          />
          <NumberField
            label={`${label} ${part.toLowerCase()} value`}
            value={Number(hsv[key].toFixed(key === 'hue' ? 1 : 3))}
            unit={unit}
            step={step}
            low={0}
            high={high}
            width={72}
            onChange={(v) => set({ [key]: v })}
            onDone={onDone}
          />
        </div>
      ))}
      <span className="text-muted">Intensity</span>
      <Slider
        label={`${label} intensity`}
        value={colour.intensity}
        low={colour.unit === 'stops' ? -4 : 0}
        high={colour.unit === 'stops' ? 8 : 40}
        onChange={(v) => onChange({ ...colour, intensity: v })}
        onDone={onDone}
      />
      <NumberField
        label={`${label} intensity value`}
        value={colour.intensity}
        unit={colour.unit === 'stops' ? 'stops' : 'x'}
        step={0.1}
        width={72}
        onChange={(v) => onChange({ ...colour, intensity: v })}
        onDone={onDone}
      />
      <span />
      <button className="plain justify-self-start text-[12px]" onClick={flip} title="Read the intensity the other way">
        {other} · in {colour.unit === 'stops' ? `factors (${shownUnit('x')})` : 'stops'}
      </button>
    </div>
  );
}

export function ColourButton({ label, colour, onChange, onDone, children }: Props & { readonly children?: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          className="flex min-h-6 min-w-6 items-center justify-center rounded-sm"
          aria-label={`${label}: edit colour`}
          title={label}
        >
          <span className="h-5 w-5 rounded-sm border border-line" style={{ background: cssColour(colour.rgb) }} />
          {children}
        </button>
      </Popover.Trigger>
      <PopoverContent aria-label={label} className="p-4" sideOffset={6} collisionPadding={8} onKeyDown={ownKeys}>
        <div className="head mb-2 text-[13px]">{label}</div>
        <ColourPanel label={label} colour={colour} onChange={onChange} onDone={onDone} />
      </PopoverContent>
    </Popover.Root>
  );
}
