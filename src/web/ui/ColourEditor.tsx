/** A colour: chroma, lightness and hue by hand, in numbers or as it is written; its intensity apart, as a factor and in stops. */
import { CircleDot, Pipette, SquareDot, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import { createContext, useContext, useRef, useState, type ReactNode } from 'react';
import { fromHex } from '../../core/base/srgb.js';
import { factorOf, type Colour } from '../../core/effect/schema.js';
import { cssColour } from './colour.js';
import { ColourField, type PlaneName } from './ColourField.js';
import { broughtIn, fromLch, hexOf, inSrgb, toLch, type Lch } from './oklch.js';
import { recentColours, rememberColour } from './recentColours.js';
import { NumberField } from './NumberField.js';
import { useTyped } from './useTyped.js';
import { Slider } from './Slider.js';
import { ownKeys } from './keys.js';
import { PopoverContent } from './PopoverContent.js';

interface Props {
  readonly label: string;
  readonly colour: Colour;
  readonly onChange: (colour: Colour) => void;
  readonly onDone: () => void;
}

/** Takes a colour from the picture that is drawn; null where nothing was taken. Nobody offers it where there is no picture. */
export const TakeFromPicture = createContext<(() => Promise<readonly [number, number, number] | null>) | null>(null);

const LCH = [
  { key: 'l', name: 'L', word: 'lightness', high: 1, step: 0.01, digits: 3, unit: '' },
  { key: 'c', name: 'C', word: 'chroma', high: 0.4, step: 0.005, digits: 3, unit: '' },
  { key: 'h', name: 'h', word: 'hue', high: 360, step: 1, digits: 1, unit: 'deg' },
] as const;

export function ColourPanel({ label, colour, onChange, onDone }: Props) {
  // A grey has no hue: what was turned last stands for it.
  const turned = useRef<Lch | null>(null);
  const known = turned.current;
  const lch = known && fromLch(known).every((v, k) => v === colour.rgb[k]) ? known : toLch(colour.rgb, known);
  const [plane, setPlane] = useState<PlaneName>('field');
  const Other = plane === 'field' ? CircleDot : SquareDot;
  const set = (to: Lch) => {
    turned.current = to;
    onChange({ ...colour, rgb: fromLch(to) });
  };
  const done = () => {
    rememberColour(colour.rgb);
    onDone();
  };
  const take = (rgb: readonly [number, number, number]) => {
    onChange({ ...colour, rgb: [...rgb] });
    rememberColour(rgb);
    onDone();
  };
  return (
    <div className="flex w-[264px] flex-col gap-2.5">
      <ColourField label={label} plane={plane} lch={lch} onChange={set} onDone={done} />
      <div className="flex items-center gap-2">
        <span className="min-w-0 grow">
          {plane === 'field' ? (
            <Slider
              {...{ label: `${label} hue`, value: lch.h, low: 0, high: 360, hues: 'oklch' }}
              onChange={(h) => set({ ...lch, h })}
              onDone={done}
            />
          ) : (
            <Slider
              {...{ label: `${label} lightness`, value: lch.l, low: 0, high: 1 }}
              onChange={(l) => set({ ...lch, l })}
              onDone={done}
            />
          )}
        </span>
        <button
          className="plain h-6 w-6"
          aria-label={plane === 'field' ? `${label}: a wheel of hues` : `${label}: a field of one hue`}
          title={plane === 'field' ? 'A wheel of all hues' : 'A field of one hue'}
          onClick={() => setPlane(plane === 'field' ? 'wheel' : 'field')}
        >
          <Other size={13} strokeWidth={1.5} aria-hidden />
        </button>
      </div>
      <div className="flex items-center justify-between">
        {LCH.map(({ key, name, word, high, step, digits, unit }) => (
          <span key={key} className="flex items-center gap-1.5 text-muted">
            {name}
            <NumberField
              label={`${label} ${word} value`}
              value={Number(lch[key].toFixed(digits))}
              unit={unit}
              step={step}
              low={0}
              high={high}
              width={66}
              onChange={(v) => set({ ...lch, [key]: v })}
              onDone={done}
            />
          </span>
        ))}
      </div>
      <Written label={label} colour={colour} lch={lch} onLch={set} onTake={take} onDone={done} />
      <Intensity label={label} colour={colour} onChange={onChange} onDone={onDone} />
      <Recent label={label} rgb={colour.rgb} onTake={take} />
    </div>
  );
}

interface WrittenProps {
  readonly label: string;
  readonly colour: Colour;
  readonly lch: Lch;
  readonly onLch: (lch: Lch) => void;
  readonly onTake: (rgb: readonly [number, number, number]) => void;
  readonly onDone: () => void;
}

/** As it is written for the web; whether sRGB has it, and what brings it there. */
function Written({ label, colour, lch, onLch, onTake, onDone }: WrittenProps) {
  const { field } = useTyped(hexOf(colour.rgb), (text) => {
    const rgb = fromHex(text.trim().startsWith('#') ? text.trim() : `#${text.trim()}`);
    if (rgb) onTake(rgb);
  });
  const outside = !inSrgb(colour.rgb);
  return (
    <div className="flex h-6 items-center gap-1.5 text-muted">
      hex
      <input
        {...field}
        className="field num w-[74px] px-1.5 text-[11px] text-ink"
        aria-label={`${label} in hexadecimal`}
        spellCheck={false}
      />
      {outside && (
        <>
          <TriangleAlert size={13} strokeWidth={1.5} className="text-caution" aria-hidden />
          <span className="text-[12px]">not in sRGB</span>
          <button
            className="button ml-auto min-h-[22px] px-2 text-[12px]"
            title="Less chroma, at this lightness and hue"
            onClick={() => {
              onLch(broughtIn(lch));
              onDone();
            }}
          >
            Bring in
          </button>
        </>
      )}
    </div>
  );
}

/** How bright it shines, apart from its hue: as a factor and in stops. What is typed last is what is kept. */
function Intensity({ label, colour, onChange, onDone }: Props) {
  const factor = factorOf(colour.intensity, colour.unit);
  const stops = Math.log2(Math.max(factor, 1e-6));
  const inStops = colour.unit === 'stops';
  const set = (unit: Colour['unit'], intensity: number) => onChange({ ...colour, unit, intensity });
  return (
    <div className="flex h-7 items-center gap-2 border-t border-line pt-2">
      <span className="text-muted">Intensity</span>
      <span className="min-w-0 grow">
        <Slider
          label={`${label} intensity`}
          value={colour.intensity}
          low={inStops ? -4 : 0}
          high={inStops ? 8 : 40}
          onChange={(v) => set(colour.unit, v)}
          onDone={onDone}
        />
      </span>
      <NumberField
        label={inStops ? `${label} intensity as a factor` : `${label} intensity value`}
        value={Number(factor.toPrecision(4))}
        unit="x"
        step={0.1}
        low={0}
        width={58}
        onChange={(v) => set('factor', v)}
        onDone={onDone}
      />
      <NumberField
        label={inStops ? `${label} intensity value` : `${label} intensity in stops`}
        value={Number(stops.toFixed(2))}
        unit="stops"
        step={0.1}
        width={66}
        onChange={(v) => set('stops', v)}
        onDone={onDone}
      />
    </div>
  );
}

/** The colours that were chosen last, and this one. */
function Recent({
  label,
  rgb,
  onTake,
}: {
  label: string;
  rgb: Colour['rgb'];
  onTake: (rgb: readonly [number, number, number]) => void;
}) {
  const recent = recentColours();
  return (
    <div className="flex items-center gap-1.5 border-t border-line pt-2.5">
      {recent.map((hex) => (
        <button
          key={hex}
          className="h-5 w-5 rounded-sm border border-line"
          style={{ background: hex }}
          aria-label={`${label}: ${hex}`}
          title={hex}
          onClick={() => onTake(fromHex(hex)!)}
        />
      ))}
      {recent.length === 0 && <span className="text-[12px] text-muted">Chosen colours are kept here.</span>}
      <span className="ml-auto h-5 w-10 rounded-sm border border-line" style={{ background: cssColour(rgb) }} title="As it is" />
    </div>
  );
}

export function ColourButton({ label, colour, onChange, onDone, children }: Props & { readonly children?: ReactNode }) {
  const fromPicture = useContext(TakeFromPicture);
  const [taking, setTaking] = useState(false);
  const take = async () => {
    setTaking(true);
    const rgb = await fromPicture!();
    setTaking(false);
    if (!rgb) return;
    onChange({ ...colour, rgb: [...rgb] });
    rememberColour(rgb);
    onDone();
  };
  // It stays open while a colour is taken from the picture outside it.
  const stay = (event: Event) => taking && event.preventDefault();
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
      <PopoverContent
        aria-label={label}
        className="p-4"
        sideOffset={6}
        collisionPadding={8}
        onKeyDown={ownKeys}
        onInteractOutside={stay}
        onEscapeKeyDown={stay}
      >
        <div className="mb-2.5 flex h-6 items-center justify-between">
          <span className="head truncate text-[13px]">{label}</span>
          {fromPicture && (
            <button className="button min-h-6 px-2 text-[12px]" aria-pressed={taking} onClick={() => void take()}>
              <Pipette size={12} strokeWidth={1.5} aria-hidden /> {taking ? 'Press on the stage' : 'From the stage'}
            </button>
          )}
        </div>
        <ColourPanel label={label} colour={colour} onChange={onChange} onDone={onDone} />
      </PopoverContent>
    </Popover.Root>
  );
}
