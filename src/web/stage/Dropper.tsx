/** Takes a colour from the picture of the stage, as it is drawn: a veil over it that shows what is under the pointer. */
import { useRef, useState, type PointerEvent, type ReactNode } from 'react';
import { createPortal } from 'react-dom';
import { TakeFromPicture } from '../ui/ColourEditor.js';
import { fromBytes, hexOf } from '../ui/oklch.js';

type Taken = readonly [number, number, number] | null;

/** The display values of the stage at a point of the window. */
function drawnAt(canvas: HTMLCanvasElement, x: number, y: number): [number, number, number] {
  const box = canvas.getBoundingClientRect();
  const copy = document.createElement('canvas');
  copy.width = copy.height = 1;
  const context = copy.getContext('2d')!;
  const [px, py] = [((x - box.left) / box.width) * canvas.width, ((y - box.top) / box.height) * canvas.height];
  context.drawImage(canvas, -Math.floor(px), -Math.floor(py));
  return fromBytes(context.getImageData(0, 0, 1, 1).data);
}

export function Dropper({ children }: { children: ReactNode }) {
  const [canvas, setCanvas] = useState<HTMLCanvasElement | null>(null);
  const [under, setUnder] = useState<{ x: number; y: number; rgb: [number, number, number] } | null>(null);
  const answer = useRef<((taken: Taken) => void) | null>(null);
  const end = (taken: Taken) => {
    answer.current?.(taken);
    answer.current = null;
    setCanvas(null);
    setUnder(null);
  };
  const take = () =>
    new Promise<Taken>((resolve) => {
      answer.current?.(null);
      answer.current = resolve;
      const found = document.querySelector<HTMLCanvasElement>('canvas[data-testid="stage"]');
      if (found) setCanvas(found);
      else end(null);
    });
  const at = (event: PointerEvent) => drawnAt(canvas!, event.clientX, event.clientY);
  const box = canvas?.getBoundingClientRect();
  return (
    <TakeFromPicture value={take}>
      {children}
      {canvas &&
        box &&
        createPortal(
          <div
            className="fixed z-50 cursor-crosshair"
            style={{ left: box.left, top: box.top, width: box.width, height: box.height, pointerEvents: 'auto' }}
            role="dialog"
            aria-label="Press where the colour is taken"
            tabIndex={-1}
            ref={(veil) => veil?.focus()}
            onKeyDown={(e) => {
              if (e.key !== 'Escape') return;
              e.stopPropagation();
              end(null);
            }}
            onPointerMove={(e) => setUnder({ x: e.clientX - box.left, y: e.clientY - box.top, rgb: at(e) })}
            onPointerDown={(e) => {
              e.preventDefault();
              e.stopPropagation();
              end(at(e));
            }}
          >
            {under && (
              <span className="stage-chip pointer-events-none absolute" style={{ left: under.x + 14, top: under.y + 14 }}>
                <span className="h-4 w-4 rounded-sm border border-line" style={{ background: hexOf(under.rgb) }} />
                <span className="num">{hexOf(under.rgb)}</span>
                <span className="text-muted">drawn</span>
              </span>
            )}
          </div>,
          document.body,
        )}
    </TakeFromPicture>
  );
}
