/** Over the picture while a prop is painted: what is seen of it, the value under the brush, and what the hands do. */
import { Eye } from 'lucide-react';
import { useEffect, useRef, type RefObject } from 'react';
import { CHANNELS } from '../../core/paint/paint.js';
import { CHANNEL_NAMES } from '../../core/scene/edits.js';
import { useBench, useBenchState } from '../context.js';
import { PaintRuler } from './PaintRuler.js';
import { usePainting } from './usePainting.js';

const KEYS: Readonly<Record<'brush' | 'line' | 'pick', readonly (readonly [string, string])[]>> = {
  brush: [
    ['drag', 'paint'],
    ['1 4', 'add to smooth'],
    ['right drag', 'take away'],
    ['[ ]', 'radius'],
    ['I', 'invert'],
  ],
  line: [
    ['press', 'where it is 0'],
    ['press', 'where it is 1'],
  ],
  pick: [['press', 'picks a vertex, or lets it go']],
};

export function PaintOverlay({ holder }: { holder: RefObject<HTMLDivElement | null> }) {
  const view = usePainting((s) => s.view);
  const tool = usePainting((s) => s.tool);
  const channel = usePainting((s) => s.channel);
  const prop = usePainting((s) => s.prop);
  const busy = usePainting((s) => s.busy);
  const names = useBenchState((s) => s.stage.props.find((p) => p.id === prop)?.channels ?? CHANNEL_NAMES);
  return (
    <>
      <p className="stage-chip pointer-events-none absolute top-3 right-3">
        <Eye size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        {view === 'grey' ? (
          <>
            <span className="num">{CHANNELS[channel].toUpperCase()}</span> {names[channel]}
            <span className="text-muted">in grey</span>
          </>
        ) : (
          <span className="text-muted">{view === 'colour' ? 'red, green and blue' : 'the effect'}</span>
        )}
      </p>
      <PaintRuler />
      <UnderBrush holder={holder} />
      {busy !== null && (
        <p role="status" className="stage-chip absolute bottom-12 left-3">
          {busy}
        </p>
      )}
      <p className="stage-chip pointer-events-none absolute inset-x-0 bottom-3 mx-auto w-fit gap-3">
        {KEYS[tool].map(([key, does], k) => (
          <span key={k} className="flex items-center gap-1.5">
            <kbd>{key}</kbd>
            <span className="max-[1180px]:hidden">{does}</span>
          </span>
        ))}
      </p>
    </>
  );
}

/** The value at the pointer, beside it. */
function UnderBrush({ holder }: { holder: RefObject<HTMLDivElement | null> }) {
  const { painting } = useBench();
  const tag = useRef<HTMLParagraphElement>(null);
  const value = useRef<HTMLSpanElement>(null);
  const under = usePainting((s) => s.under !== null);
  useEffect(() => {
    const box = holder.current!;
    const follow = (event: globalThis.PointerEvent) => {
      const { left, top, width } = box.getBoundingClientRect();
      const x = Math.min(event.clientX - left + 76, width - 140);
      tag.current!.style.transform = `translate(${x}px, ${event.clientY - top - 13}px)`;
    };
    box.addEventListener('pointermove', follow);
    return () => box.removeEventListener('pointermove', follow);
  }, [holder]);
  useEffect(
    () => painting.store.subscribe((s) => void (s.under && (value.current!.textContent = s.under.value.toFixed(2)))),
    [painting],
  );
  return (
    <p ref={tag} hidden={!under} className="stage-chip pointer-events-none absolute top-0 left-0" data-testid="under-brush">
      <span className="text-muted">under brush</span> <span ref={value} className="num" />
    </p>
  );
}
