/** What an operator makes of hills, ramps and places: the picture that tells it from others. */
import { useEffect, useRef } from 'react';
import { PREVIEW_HEIGHT, PREVIEW_WIDTH, previewOf } from './preview.js';

export function OperatorPicture({ op, className }: { op: string; className: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => canvas.current!.getContext('2d')!.putImageData(previewOf(op), 0, 0), [op]);
  return (
    <canvas
      ref={canvas}
      width={PREVIEW_WIDTH}
      height={PREVIEW_HEIGHT}
      className={`shrink-0 rounded-sm border border-line ${className}`}
      aria-hidden
    />
  );
}
