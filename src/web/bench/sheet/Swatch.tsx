/** A strand's live value: on the prop, or as a curve over the loop where it is one number a frame. Drawn by reference. */
import { useEffect, useRef } from 'react';
import type { Rate } from '../../../core/ir/leaves.js';
import { CURVE_POINTS, SWATCH_HEIGHT, SWATCH_WIDTH, type Readings } from '../../../workers/readings.js';
import { useBench } from '../../context.js';

const BYTES = SWATCH_WIDTH * SWATCH_HEIGHT * 4;

export function drawCurve(
  context: CanvasRenderingContext2D,
  curve: Float32Array,
  width: number,
  height: number,
  colour: string,
): void {
  let low = Infinity;
  let high = -Infinity;
  for (const v of curve) if (Number.isFinite(v)) [low, high] = [Math.min(low, v), Math.max(high, v)];
  if (!(high > low)) [low, high] = [low - 0.5, low + 0.5];
  const pad = height * 0.12;
  context.beginPath();
  curve.forEach((v, k) => {
    const x = (k / (curve.length - 1)) * (width - 2) + 1;
    const y = height - pad - ((v - low) / (high - low)) * (height - 2 * pad);
    if (k === 0) context.moveTo(x, y);
    else context.lineTo(x, y);
  });
  context.strokeStyle = colour;
  context.lineWidth = 2;
  context.lineJoin = 'round';
  context.stroke();
}

export function Swatch({ id, rate, label }: { id: string; rate: Rate | undefined; label: string }) {
  const session = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const draw = (readings: Readings) => {
      const context = canvas.current?.getContext('2d');
      const k = readings.ids.indexOf(id);
      if (!context || k < 0) return;
      if (rate === 'frame') {
        context.fillStyle = '#14121a';
        context.fillRect(0, 0, SWATCH_WIDTH, SWATCH_HEIGHT);
        drawCurve(
          context,
          readings.curves.subarray(k * CURVE_POINTS, (k + 1) * CURVE_POINTS),
          SWATCH_WIDTH,
          SWATCH_HEIGHT,
          '#ece7f3',
        );
      } else
        context.putImageData(new ImageData(readings.atlas.slice(k * BYTES, (k + 1) * BYTES), SWATCH_WIDTH, SWATCH_HEIGHT), 0, 0);
      canvas.current!.dataset.drawn = String(readings.time);
      const gain = rate === 'frame' ? 1 : readings.gains[k]!;
      const title = gain === 1 ? '' : `Faint: shown ${gain.toFixed(gain < 3 ? 1 : 0)} times as bright`;
      if (canvas.current!.title !== title) canvas.current!.title = title;
    };
    return session.readings.onReadings(draw);
  }, [session, id, rate]);
  return (
    <canvas
      ref={canvas}
      width={SWATCH_WIDTH}
      height={SWATCH_HEIGHT}
      className="h-6 w-8 rounded-sm border border-line bg-base"
      role="img"
      aria-label={`${label}, as it is now`}
      data-swatch={id}
    />
  );
}
