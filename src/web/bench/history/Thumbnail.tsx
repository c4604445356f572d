/** A small picture of another state of the bench, drawn when it comes into view. */
import { useEffect, useRef, useState } from 'react';
import type { Both } from '../../../session/state.js';
import { THUMBNAIL } from '../../../session/thumbnails.js';
import { useBench } from '../../context.js';

/** @param of the documents, had when the picture is wanted: null where there are none; @param version is another when they are */
export function Thumbnail({ of, version }: { of: () => Promise<Both | null>; version: unknown }) {
  const session = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [seen, setSeen] = useState(false);
  const wanted = useRef(of);
  wanted.current = of;
  useEffect(() => {
    const watcher = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && setSeen(true));
    watcher.observe(canvas.current!);
    return () => watcher.disconnect();
  }, []);
  useEffect(() => {
    if (!seen) return;
    const leaving = new AbortController();
    const draw = async () => {
      const both = await wanted.current();
      if (!both || leaving.signal.aborted) return;
      const image = await session.thumbnails.of(both, leaving.signal);
      canvas.current?.getContext('2d')?.putImageData(image, 0, 0);
      if (canvas.current) canvas.current.dataset.drawn = '';
    };
    // What cannot be drawn stays dark: its row still says what it is.
    draw().catch(() => undefined);
    return () => leaving.abort(new Error('The history was closed.'));
  }, [seen, session, version]);
  return (
    <canvas
      ref={canvas}
      {...THUMBNAIL}
      className="h-10 w-16 shrink-0 rounded-sm border border-line bg-base"
      aria-hidden
      data-thumbnail
    />
  );
}
