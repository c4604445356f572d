/** A rubber band in the margin of the sheet: the rows that it touches are chosen. */
import { useState, type PointerEvent } from 'react';
import { useBench } from '../../context.js';
import type { Layout } from './layout.js';

/** How wide the margin is, in pixels. */
const MARGIN = 40;
/** A press that moves less is none. */
const LEAST = 4;

export interface Band {
  readonly top: number;
  readonly height: number;
}

export function useBand({ items }: Layout) {
  const session = useBench();
  const [band, setBand] = useState<{ from: number; to: number; before: readonly string[] } | null>(null);
  const yOf = (event: PointerEvent<HTMLElement>) => event.clientY - event.currentTarget.getBoundingClientRect().top;
  const touched = (from: number, to: number) => {
    const [top, bottom] = [Math.min(from, to), Math.max(from, to)];
    return items.flatMap((i) => (i.type === 'strand' && i.y < bottom && i.y + i.height > top ? [i.strand.id] : []));
  };
  const end = () => setBand(null);
  return {
    band: band && { top: Math.min(band.from, band.to), height: Math.abs(band.to - band.from) },
    handlers: {
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
        if (event.button !== 0 || x > MARGIN) return;
        const { run } = session.store.getState();
        setBand({ from: yOf(event), to: yOf(event), before: event.ctrlKey || event.metaKey ? run : [] });
      },
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        if (!band) return;
        const to = yOf(event);
        if (Math.abs(to - band.from) < LEAST) return;
        // Not before: a press that does not move is a click of the row under it.
        event.currentTarget.setPointerCapture(event.pointerId);
        setBand({ ...band, to });
        const ids = [...band.before, ...touched(band.from, to)];
        if (ids.length > 0) session.choosing.run(ids);
      },
      onPointerUp: end,
      onPointerCancel: end,
    },
  };
}
