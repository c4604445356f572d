/** The renderer of an open bench on a canvas of its own; made anew when the graphics card lets go of it. */
import { useCallback, useEffect, useRef, useState, type RefObject } from 'react';
import { Graphics } from '../../render/graphics.js';
import { StageRenderer } from '../../render/renderer.js';
import type { Bench } from '../../session/bench.js';
import { useBench } from '../context.js';

/** Never had; lost and on its way back; lost, and not given again. */
export type NoPicture = 'never' | 'returning' | 'gone';

/** How long to wait before a lost picture is asked for again, the first time, the second and so on. A card that restarts takes seconds. */
const WAITS_MS = [100, 500, 1000, 2000, 4000, 8000];

/** A canvas over the one that is being drawn, until that shows something. */
interface Last {
  readonly canvas: HTMLCanvasElement;
  readonly remove: () => void;
}

function newCanvas(): HTMLCanvasElement {
  const canvas = document.createElement('canvas');
  canvas.className = 'absolute inset-0 h-full w-full outline-none';
  canvas.tabIndex = 0;
  canvas.setAttribute('aria-label', 'Stage: drag to look around');
  canvas.setAttribute('role', 'img');
  canvas.dataset.testid = 'stage';
  return canvas;
}

/** Makes a canvas that only holds its picture of one that was drawn on. */
function still(canvas: HTMLCanvasElement): void {
  canvas.removeAttribute('tabindex');
  canvas.removeAttribute('aria-label');
  canvas.removeAttribute('role');
  canvas.setAttribute('aria-hidden', 'true');
  canvas.style.pointerEvents = 'none';
  canvas.dataset.testid = 'last-stage';
}

function fitTo(box: HTMLElement, renderer: StageRenderer, session: Bench): () => void {
  const fit = () => {
    const ratio = Math.min(2, window.devicePixelRatio);
    const pixels = (side: number) => Math.max(1, Math.round(side * ratio));
    renderer.resize({ width: pixels(box.clientWidth), height: pixels(box.clientHeight) });
    session.frames.resized();
  };
  fit();
  const watcher = new ResizeObserver(fit);
  watcher.observe(box);
  return () => watcher.disconnect();
}

/** @returns why there is no picture, and how to ask for it again */
export function useStageCanvas(holder: RefObject<HTMLDivElement | null>): { lacking: NoPicture | null; again: () => void } {
  const session = useBench();
  const [lacking, setLacking] = useState<NoPicture | null>(null);
  const [turn, setTurn] = useState(0);
  const losses = useRef(0);
  const last = useRef<Last | null>(null);
  useEffect(() => {
    const box = holder.current!;
    // A context that has been lost for good cannot be had again from the same canvas.
    const canvas = newCanvas();
    box.prepend(canvas);
    let later: ReturnType<typeof setTimeout> | null = null;
    const lose = () => {
      const wait = WAITS_MS[losses.current++];
      setLacking(wait === undefined ? 'gone' : 'returning');
      if (wait !== undefined) later = setTimeout(() => setTurn((n) => n + 1), wait);
    };
    let graphics: Graphics;
    let renderer: StageRenderer;
    try {
      const draft = new URLSearchParams(location.search).get('quality') === 'draft';
      graphics = new Graphics(canvas);
      renderer = new StageRenderer(graphics, { draft });
    } catch {
      canvas.remove();
      if (losses.current > 0) lose();
      else setLacking('never');
      return () => void (later && clearTimeout(later));
    }
    const unfit = fitTo(box, renderer, session);
    session.frames.attach(renderer);
    const stop = session.frames.onDrawn((frame) => {
      canvas.dataset.frames = String(frame);
      canvas.setAttribute('aria-busy', String(session.frames.coming > 0));
      canvas.dataset.time = String(session.clock.time);
      if (graphics.lost || session.frames.busy || session.frames.coming > 0) return;
      last.current?.remove();
      losses.current = 0;
      setLacking(null);
    });
    canvas.addEventListener('webglcontextlost', lose);
    return () => {
      if (later) clearTimeout(later);
      canvas.removeEventListener('webglcontextlost', lose);
      stop();
      unfit();
      session.painting.end();
      session.frames.detach();
      last.current?.remove();
      const remove = () => {
        last.current = null;
        canvas.remove();
        graphics.dispose();
      };
      // The last good picture stays until the next one is there.
      if (graphics.lost) remove();
      else {
        still(canvas);
        last.current = { canvas, remove };
      }
    };
  }, [session, holder, turn]);
  useEffect(() => () => last.current?.remove(), []);
  const again = useCallback(() => {
    losses.current = 1;
    setTurn((n) => n + 1);
  }, []);
  return { lacking, again };
}
