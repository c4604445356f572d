/** Has the pictures drawn that the Library lacks, one effect after another, while it is open. */
import { useEffect, useRef, useState } from 'react';
import type { StripPainter } from '../../session/strips.js';
import type { EffectCard } from '../data/library.js';

/** @returns the address of an effect's strip, or null while there is none */
export function useStrips(effects: readonly EffectCard[] | undefined): (effect: EffectCard) => string | null {
  const painter = useRef<Promise<StripPainter> | null>(null);
  const asked = useRef(new Set<string>());
  const [drawn, setDrawn] = useState<ReadonlySet<string>>(new Set());
  useEffect(
    () => () => {
      // Where there is no WebGL2 there is no painter to stop.
      void painter.current?.then((p) => p.stop()).catch(() => undefined);
      painter.current = null;
      asked.current = new Set();
    },
    [],
  );
  useEffect(() => {
    for (const { id, stripKey, drawn: there } of effects ?? []) {
      const name = `${id} ${stripKey}`;
      if (there || asked.current.has(name)) continue;
      asked.current.add(name);
      // The painter brings three.js along: it is loaded when there is something to draw.
      painter.current ??= import('../../session/strips.js').then(({ StripPainter: Painter }) => new Painter());
      void painter.current
        .then((p) => p.paint(id, stripKey))
        .then((stored) => stored && setDrawn((before) => new Set([...before, name])))
        // A card without pictures still opens.
        .catch(() => undefined);
    }
  }, [effects]);
  return ({ id, stripKey, drawn: there }) =>
    there || drawn.has(`${id} ${stripKey}`)
      ? `/api/effects/${encodeURIComponent(id)}/strip?key=${encodeURIComponent(stripKey)}`
      : null;
}
