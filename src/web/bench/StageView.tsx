/** The stage: the canvas, and a few chips on it. */
import { Aperture, Camera, Maximize, Waves } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { StageRenderer } from '../../stage/renderer.js';
import { Select } from '../ui/Select.js';
import { useBench, useBenchState } from './context.js';
import { OpticsPanel } from './OpticsPanel.js';

export function StageView() {
  const session = useBench();
  const holder = useRef<HTMLDivElement>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const stageName = useBenchState((s) => s.stage.name);
  const viewpoints = useBenchState((s) => s.stage.viewpoints);
  const viewpoint = useBenchState((s) => s.viewpoint);
  const optics = useBenchState((s) => s.stage.optics);
  const raw = useBenchState((s) => s.raw);
  const bare = useBenchState((s) => s.bare);

  useEffect(() => {
    const box = holder.current!;
    // The renderer owns its canvas: a context that has been lost for good cannot be had again from the same one.
    const canvas = document.createElement('canvas');
    canvas.className = 'absolute inset-0 h-full w-full outline-none';
    canvas.tabIndex = 0;
    canvas.setAttribute('aria-label', 'Stage: drag to look around');
    canvas.setAttribute('role', 'img');
    canvas.dataset.testid = 'stage';
    box.prepend(canvas);
    let renderer: StageRenderer;
    try {
      renderer = new StageRenderer(canvas, new URLSearchParams(location.search).get('quality') === 'draft');
    } catch {
      setFailure('This browser has no WebGL2, so the stage stays dark. The sheet and its numbers still work.');
      canvas.remove();
      return;
    }
    const fit = () => {
      renderer.resize(box.clientWidth, box.clientHeight, Math.min(2, window.devicePixelRatio));
      session.resized();
    };
    fit();
    session.attach(renderer);
    const watcher = new ResizeObserver(fit);
    watcher.observe(box);
    const stop = session.onDrawn((frame) => {
      canvas.dataset.frames = String(frame);
      canvas.dataset.time = String(session.clock.time);
    });
    return () => {
      stop();
      watcher.disconnect();
      session.detach();
      canvas.remove();
    };
  }, [session]);

  return (
    <section ref={holder} aria-label="Stage" className="relative min-h-0 min-w-0 overflow-hidden bg-base">
      {failure && (
        <p role="alert" className="absolute inset-0 m-auto h-fit w-fit max-w-[360px] text-center text-muted">
          {failure}
        </p>
      )}
      {!bare && (
        <>
          <div className="absolute top-3 left-3 flex gap-2">
            <Select
              label="Viewpoint"
              className="stage-chip"
              value={viewpoint ?? ''}
              choices={viewpoints}
              onChoose={(id) => session.lookFrom(id)}
              prefix={<Camera size={14} strokeWidth={1.5} className="text-muted" aria-hidden />}
            />
            <span className="stage-chip" title="The stage this effect stands on">
              <Waves size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
              {stageName}
            </span>
          </div>
          <div className="absolute top-3 right-3 flex gap-2">
            <Popover.Root>
              <Popover.Trigger asChild>
                <button className="stage-chip" aria-label="Optics">
                  <Aperture size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
                  <span className="num">{optics.exposure.toFixed(1)} EV</span>
                  <span className="text-muted">bloom</span>
                  <span className="num">
                    {optics.bloom.on ? `${optics.bloom.threshold.toFixed(1)} / ${optics.bloom.intensity.toFixed(1)}` : 'off'}
                  </span>
                </button>
              </Popover.Trigger>
              <Popover.Portal>
                <Popover.Content className="menu w-[292px] p-4" align="end" sideOffset={6} collisionPadding={12}>
                  <OpticsPanel />
                </Popover.Content>
              </Popover.Portal>
            </Popover.Root>
          </div>
          <div className="absolute bottom-3 left-3 flex gap-2">
            <button className="stage-chip" onClick={() => session.lookFrom(viewpoint ?? '')} title="Back to the viewpoint">
              <Maximize size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
              Frame
            </button>
            <button
              className="stage-chip"
              aria-pressed={raw}
              onClick={() => session.setRaw(!raw)}
              title="Without bloom and tone curve  '"
            >
              {raw ? 'Without optics' : 'With optics'}
            </button>
          </div>
        </>
      )}
    </section>
  );
}
