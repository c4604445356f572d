/** Has pictures drawn of the stages that no effect stands on, one after another, while the list is open. */
import { useEffect, useRef, useState } from 'react';
import type { StagePainter } from '../../session/stagePictures.js';

/** @returns the address of a stage's picture, or null while there is none */
export function useStagePictures(ids: readonly string[]): (id: string) => string | null {
  const painter = useRef<Promise<StagePainter> | null>(null);
  const asked = useRef(new Set<string>());
  const [drawn, setDrawn] = useState<Readonly<Record<string, string>>>({});
  const urls = useRef<string[]>([]);
  useEffect(
    () => () => {
      void painter.current?.then((p) => p.stop()).catch(() => undefined);
      painter.current = null;
      asked.current = new Set();
      for (const url of urls.current.splice(0)) URL.revokeObjectURL(url);
    },
    [],
  );
  const list = ids.join();
  useEffect(() => {
    for (const id of list === '' ? [] : list.split(',')) {
      if (asked.current.has(id)) continue;
      asked.current.add(id);
      painter.current ??= import('../../session/stagePictures.js').then(({ StagePainter: Painter }) => new Painter());
      void painter.current
        .then((p) => p.paint(id))
        .then((url) => {
          if (painter.current === null) return URL.revokeObjectURL(url);
          urls.current.push(url);
          setDrawn((before) => ({ ...before, [id]: url }));
        })
        // A card without a picture still opens.
        .catch(() => undefined);
    }
  }, [list]);
  return (id) => drawn[id] ?? null;
}
