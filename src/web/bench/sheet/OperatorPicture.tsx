/** What an operator, or a motif, makes of hills, ramps and places: the picture that tells it from others. */
import { useEffect, useRef } from 'react';
import type { Motif } from '../../../core/effect/schema.js';
import { PREVIEW_HEIGHT, PREVIEW_WIDTH, previewOf, previewOfMotif } from './preview.js';

export function OperatorPicture({ op, motif, className }: { op: string; motif?: Motif; className: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(
    () => canvas.current!.getContext('2d')!.putImageData(motif ? previewOfMotif(motif) : previewOf(op), 0, 0),
    [op, motif],
  );
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
