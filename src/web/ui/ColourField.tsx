/** All chromas and lightnesses of one hue: what sRGB has in its colours, what it has not hatched. */
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { srgbEncode } from '../../core/base/srgb.js';
import { fromLch, inSrgb, type Lch } from './oklch.js';

const [WIDE, HIGH] = [264, 124];
/** The field is drawn a pixel for two. */
const COARSE = 2;
const MOST_CHROMA = 0.34;

function paint(context: CanvasRenderingContext2D, h: number): void {
  const [w, v] = [WIDE / COARSE, HIGH / COARSE];
  const image = new ImageData(w, v);
  for (let y = 0; y < v; y++)
    for (let x = 0; x < w; x++) {
      const rgb = fromLch({ l: 1 - y / (v - 1), c: (x / (w - 1)) * MOST_CHROMA, h });
      const shown = inSrgb(rgb)
        ? rgb.map((c) => 255 * srgbEncode(Math.max(0, Math.min(1, c))))
        : (x + y) % 4 === 0
          ? [52, 46, 68]
          : [26, 23, 34];
      image.data.set([...shown, 255], (y * w + x) * 4);
    }
  context.putImageData(image, 0, 0);
}

interface Props {
  readonly label: string;
  readonly lch: Lch;
  readonly onChange: (lch: Lch) => void;
  readonly onDone: () => void;
}

const within = (v: number, most: number): number => Math.max(0, Math.min(most, v));
const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

export function ColourField({ label, lch, onChange, onDone }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { l, c, h } = lch;
  useEffect(() => paint(canvas.current!.getContext('2d')!, h), [h]);
  const point = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    onChange({ h, c: within(x, 1) * MOST_CHROMA, l: 1 - within(y, 1) });
  };
  const onKey = (event: KeyboardEvent) => {
    const way = WAYS[event.key];
    if (!way) return;
    event.preventDefault();
    const step = event.shiftKey ? 10 : 1;
    onChange({ h, c: within(c + way[0] * 0.004 * step, MOST_CHROMA), l: within(l + way[1] * 0.01 * step, 1) });
    onDone();
  };
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
        aria-label={`${label} chroma and lightness`}
        aria-valuemin={0}
        aria-valuemax={1}
        aria-valuenow={Number(l.toFixed(3))}
        aria-valuetext={`lightness ${l.toFixed(2)}, chroma ${c.toFixed(3)}`}
        className="absolute h-[14px] w-[14px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-ink shadow-[0_0_0_1px_#14121a]"
        style={{ left: `${within(c / MOST_CHROMA, 1) * 100}%`, top: `${(1 - within(l, 1)) * 100}%` }}
        onKeyDown={onKey}
      />
    </div>
  );
}
