/**
 * Two of a colour's three sides at once, what sRGB lacks hatched: a field of all chromas and lightnesses of its hue, or a
 * wheel of all hues and chromas of its lightness.
 */
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { srgbEncode } from '../../core/base/srgb.js';
import { fromLch, inSrgb, type Lch } from './oklch.js';

const [WIDE, HIGH] = [264, 124];
/** The field is drawn a pixel for two. */
const COARSE = 2;
const MOST_CHROMA = 0.34;

const within = (v: number, most: number): number => Math.max(0, Math.min(most, v));

/** A plane of colours: which one is at a place of the box, both ways 0..1 from the left and the bottom, and where one is. */
interface Plane {
  readonly at: (x: number, y: number, lch: Lch) => Lch;
  readonly of: (lch: Lch) => readonly [number, number];
  readonly label: string;
}

const round = (degrees: number) => ((degrees % 360) + 360) % 360;
/** The wheel's half width and half height as shares of the box: it is a circle on the screen. */
const [ACROSS, UP] = [HIGH / WIDE / 2, 0.5];

export const PLANES = {
  field: {
    at: (x, y, { h }) => ({ h, c: within(x, 1) * MOST_CHROMA, l: within(y, 1) }),
    of: ({ l, c }) => [within(c / MOST_CHROMA, 1), within(l, 1)],
    label: 'chroma and lightness',
  },
  wheel: {
    at: (x, y, { l, h }) => {
      const [right, up] = [(x - 0.5) / ACROSS, (y - 0.5) / UP];
      const out = Math.hypot(right, up);
      return { l, c: within(out, 1) * MOST_CHROMA, h: out < 1e-6 ? h : round((Math.atan2(up, right) * 180) / Math.PI) };
    },
    of: ({ c, h }) => {
      const out = within(c / MOST_CHROMA, 1);
      return [0.5 + out * ACROSS * Math.cos((h * Math.PI) / 180), 0.5 + out * UP * Math.sin((h * Math.PI) / 180)];
    },
    label: 'hue and chroma',
  },
} as const satisfies Record<string, Plane>;

export type PlaneName = keyof typeof PLANES;

/** What a pixel shows: the colour, a hatch where sRGB lacks it, and nothing beside the wheel. */
function shownAt(plane: PlaneName, x: number, y: number, lch: Lch, hatch: boolean): readonly number[] {
  if (plane === 'wheel' && Math.hypot((x - 0.5) / ACROSS, (y - 0.5) / UP) > 1) return [0, 0, 0, 0];
  const rgb = fromLch(PLANES[plane].at(x, y, lch));
  if (inSrgb(rgb)) return [...rgb.map((c) => 255 * srgbEncode(Math.max(0, Math.min(1, c)))), 255];
  return hatch ? [52, 46, 68, 255] : [26, 23, 34, 255];
}

function paint(context: CanvasRenderingContext2D, plane: PlaneName, lch: Lch): void {
  const [w, v] = [WIDE / COARSE, HIGH / COARSE];
  const image = new ImageData(w, v);
  for (let y = 0; y < v; y++)
    for (let x = 0; x < w; x++)
      image.data.set(shownAt(plane, x / (w - 1), 1 - y / (v - 1), lch, (x + y) % 4 === 0), (y * w + x) * 4);
  context.putImageData(image, 0, 0);
}

interface Props {
  readonly label: string;
  readonly plane: PlaneName;
  readonly lch: Lch;
  readonly onChange: (lch: Lch) => void;
  readonly onDone: () => void;
}

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

export function ColourField({ label, plane, lch, onChange, onDone }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { l, c, h } = lch;
  // What the plane is of is all that its picture is made of.
  const fixed = plane === 'field' ? h : l;
  useEffect(() => {
    const of = plane === 'field' ? { l: 0, c: 0, h: fixed } : { l: fixed, c: 0, h: 0 };
    paint(canvas.current!.getContext('2d')!, plane, of);
  }, [plane, fixed]);
  const point = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    onChange(PLANES[plane].at(x, 1 - y, lch));
  };
  const onKey = (event: KeyboardEvent) => {
    const way = WAYS[event.key];
    if (!way) return;
    event.preventDefault();
    const step = event.shiftKey ? 10 : 1;
    const [right, up] = [way[0] * step, way[1] * step];
    if (plane === 'field') onChange({ h, c: within(c + right * 0.004, MOST_CHROMA), l: within(l + up * 0.01, 1) });
    else onChange({ l, c: within(c + right * 0.004, MOST_CHROMA), h: round(h + up) });
    onDone();
  };
  const [x, y] = PLANES[plane].of(lch);
  return (
    <div
      className="relative touch-none overflow-hidden rounded-sm border border-line"
      style={{ width: WIDE, height: HIGH }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        point(e);
      }}
      onPointerMove={point}
      onPointerUp={onDone}
      data-testid="colour-field"
    >
      <canvas ref={canvas} width={WIDE / COARSE} height={HIGH / COARSE} className="h-full w-full" aria-hidden />
      <span
        role="slider"
        tabIndex={0}
        aria-label={`${label} ${PLANES[plane].label}`}
        aria-valuemin={0}
        aria-valuemax={plane === 'field' ? 1 : 360}
        aria-valuenow={plane === 'field' ? Number(l.toFixed(3)) : Math.round(h)}
        aria-valuetext={`lightness ${l.toFixed(2)}, chroma ${c.toFixed(3)}, hue ${h.toFixed(0)}`}
        className="absolute h-[14px] w-[14px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-ink shadow-[0_0_0_1px_#14121a]"
        style={{ left: `${x * 100}%`, top: `${(1 - y) * 100}%` }}
        onKeyDown={onKey}
      />
    </div>
  );
}
