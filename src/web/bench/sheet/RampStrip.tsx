/** A ramp as it is: its stops dragged, added by a press, spread evenly, or taken from a picture or a CSS gradient. */
import { Popover } from 'radix-ui';
import { useRef, useState, type PointerEvent } from 'react';
import { addStopAt, changeRamp, replaceStops, spreadStops } from '../../../core/effect/ramps.js';
import { isLink, type Strand } from '../../../core/effect/schema.js';
import { rampOfColours } from '../../../core/effect/pictureRamp.js';
import { readGradient } from '../../../core/effect/cssGradient.js';
import type { Ramp } from '../../../core/operators/record.js';
import { setLiteral } from '../../../session/actions.js';
import { PopoverContent } from '../../ui/PopoverContent.js';
import { cssColour } from '../../ui/colour.js';
import { fromBytes } from '../../ui/oklch.js';
import { ownKeys } from '../../ui/keys.js';
import { useBench } from '../../context.js';

interface Props {
  readonly strand: Strand;
  /** Of the ramp among the strand's literals. */
  readonly name: string;
  readonly ramp: Pick<Ramp, 'space' | 'interpolation'>;
  /** As they are shown. */
  readonly stops: readonly { readonly at: number; readonly rgb: readonly number[] }[];
}

const css = (rgb: readonly number[]) => cssColour([rgb[0]!, rgb[1]!, rgb[2]!]);

/** The ramp as a CSS gradient, mixed where the ramp mixes; smooth ways are cut into eight. */
export function gradientOf({ ramp, stops }: Pick<Props, 'ramp' | 'stops'>): string {
  const space = ramp.space === 'oklab' ? 'oklab' : 'srgb-linear';
  const sorted = [...stops].sort((a, b) => a.at - b.at);
  const parts = sorted.flatMap((stop, k) => {
    const next = sorted[k + 1];
    const here = `${css(stop.rgb)} ${stop.at * 100}%`;
    if (!next || ramp.interpolation === 'linear') return [here];
    if (ramp.interpolation === 'step') return [here, `${css(stop.rgb)} ${next.at * 100}%`];
    const between = Array.from({ length: 7 }, (_, j) => {
      const t = (j + 1) / 8;
      const share = t * t * (3 - 2 * t) * 100;
      return `color-mix(in ${space}, ${css(next.rgb)} ${share}%, ${css(stop.rgb)}) ${(stop.at + (next.at - stop.at) * t) * 100}%`;
    });
    return [here, ...between];
  });
  return parts.length > 1 ? `linear-gradient(in ${space} to right, ${parts.join(', ')})` : css(sorted[0]!.rgb);
}

export function RampStrip({ strand, name, ramp, stops }: Props) {
  const session = useBench();
  const strip = useRef<HTMLDivElement>(null);
  const [chosen, setChosen] = useState<number | null>(null);
  const placeOf = (clientX: number) => {
    const { left, width } = strip.current!.getBoundingClientRect();
    return Number(Math.max(0, Math.min(1, (clientX - left) / width)).toFixed(3));
  };
  const add = (event: PointerEvent) => {
    if (event.button !== 0 || event.target !== strip.current) return;
    const at = placeOf(event.clientX);
    session.documents.edit('Add a stop', (draft) => setChosen(addStopAt(draft, { id: strand.id, literal: name, at })));
  };
  return (
    <div className="flex h-[30px] w-[252px] items-center gap-1">
      <div
        ref={strip}
        className="relative h-[18px] grow cursor-copy touch-none rounded-sm border border-line"
        style={{ background: gradientOf({ ramp, stops }) }}
        role="group"
        aria-label={`The colours of ${strand.name}`}
        title="Press to add a stop"
        onPointerDown={add}
      >
        {stops.map((stop, k) => {
          const key = `${name}.${k}.place`;
          const linked = isLink(strand.inputs?.[key]);
          const set = (at: number) => setLiteral(session, strand.id, key, at);
          return (
            <button
              key={k}
              className={`absolute top-[-2px] h-5 w-[10px] -translate-x-1/2 cursor-ew-resize rounded-[3px] border-2 border-panel outline-[1.5px] ${chosen === k ? 'outline-wisp' : 'outline-edge'}`}
              style={{ left: `${Math.max(0, Math.min(1, stop.at)) * 100}%`, background: css(stop.rgb) }}
              aria-label={`${strand.name}, stop ${k + 1} of ${stops.length} at ${stop.at}`}
              title={linked ? 'Its place is read from a strand' : 'Drag it'}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                setChosen(k);
              }}
              onPointerMove={(e) => e.buttons === 1 && !linked && chosen === k && set(placeOf(e.clientX))}
              onPointerUp={() => session.documents.endGesture()}
              onKeyDown={(e) => {
                const by = e.key === 'ArrowLeft' ? -0.01 : e.key === 'ArrowRight' ? 0.01 : 0;
                if (by === 0 || linked) return;
                e.preventDefault();
                e.stopPropagation();
                set(Number(Math.max(0, Math.min(1, stop.at + by)).toFixed(3)));
                session.documents.endGesture();
              }}
            />
          );
        })}
      </div>
      <button
        className="plain px-1 text-[11px]"
        title="Spread the stops evenly"
        onClick={() =>
          session.documents.edit('Spread the stops', (draft) => spreadStops(draft, { id: strand.id, literal: name }))
        }
      >
        Even
      </button>
      <FromPicture strand={strand} name={name} />
      <FromCss strand={strand} name={name} text={gradientOf({ ramp: { ...ramp, interpolation: 'linear' }, stops })} />
    </div>
  );
}

/** Colours that a picture is read at, from its left to its right. */
const SAMPLES = 64;

/** The colours of a picture, each column's mean, in linear light. @throws where it is no picture that the browser reads */
async function coloursOf(file: File): Promise<[number, number, number][]> {
  const picture = await createImageBitmap(file);
  const canvas = new OffscreenCanvas(SAMPLES, 1);
  const context = canvas.getContext('2d')!;
  context.imageSmoothingQuality = 'high';
  context.drawImage(picture, 0, 0, SAMPLES, 1);
  const { data } = context.getImageData(0, 0, SAMPLES, 1);
  return Array.from({ length: SAMPLES }, (_, k) => fromBytes(data.subarray(k * 4)));
}

/** The ramp from a picture's colours, left to right. */
function FromPicture({ strand, name }: { strand: Strand; name: string }) {
  const session = useBench();
  const file = useRef<HTMLInputElement>(null);
  const take = (chosen: File) =>
    coloursOf(chosen).then(
      (colours) =>
        session.documents.edit('Take a ramp from a picture', (draft) => {
          const stops = rampOfColours(colours).map(({ at, rgb }) => ({ at, rgb: [...rgb] as [number, number, number] }));
          replaceStops(draft, { id: strand.id, literal: name, stops });
          changeRamp(draft, { id: strand.id, literal: name, change: { space: 'oklab' } });
        }),
      () => session.store.setState({ notice: `${chosen.name} is no picture that this browser reads, so the ramp is as it was.` }),
    );
  return (
    <>
      <button
        className="plain px-1 text-[11px]"
        title="From a picture’s colours, left to right"
        onClick={() => file.current?.click()}
      >
        Picture
      </button>
      <input
        ref={file}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label={`A picture for ${strand.name}`}
        accept="image/*"
        onChange={(e) => {
          const [chosen] = e.target.files ?? [];
          e.target.value = '';
          if (chosen) void take(chosen);
        }}
      />
    </>
  );
}

/** The ramp as CSS writes it, to be copied, or replaced by another. */
function FromCss({ strand, name, text }: { strand: Strand; name: string; text: string }) {
  const session = useBench();
  const [typed, setTyped] = useState(text);
  const read = readGradient(typed);
  const take = () => {
    if (!read.ok) return;
    session.documents.edit('Take a CSS gradient', (draft) => {
      replaceStops(draft, { id: strand.id, literal: name, stops: read.stops });
      if (read.space) changeRamp(draft, { id: strand.id, literal: name, change: { space: read.space } });
    });
  };
  return (
    <Popover.Root onOpenChange={(open) => open && setTyped(text)}>
      <Popover.Trigger asChild>
        <button className="plain px-1 text-[11px]" title="As a CSS gradient, out and in">
          CSS
        </button>
      </Popover.Trigger>
      <PopoverContent aria-label="The ramp as CSS" className="w-[320px] p-4" sideOffset={6} onKeyDown={ownKeys}>
        <h3 className="head mb-2 text-[14px] leading-5">As CSS</h3>
        <textarea
          className="field num h-[84px] w-full resize-none px-1.5 py-1 text-[11px] leading-4"
          aria-label={`${strand.name} as a CSS gradient`}
          spellCheck={false}
          value={typed}
          onChange={(e) => setTyped(e.currentTarget.value)}
        />
        <div className="mt-2 flex items-center gap-2 text-[12px]">
          <span className={`min-w-0 grow ${read.ok ? 'text-muted' : 'text-fault'}`} role="status">
            {read.ok ? `${read.stops.length} stops` : read.why}
          </span>
          <Popover.Close asChild>
            <button className="button" disabled={!read.ok} onClick={take}>
              Take it
            </button>
          </Popover.Close>
        </div>
      </PopoverContent>
    </Popover.Root>
  );
}
