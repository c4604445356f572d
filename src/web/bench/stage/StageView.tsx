/** The stage: the canvas, and a few chips on it. */
import { Aperture, Box, Camera, Maximize, Move, Pin, Waves } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import { MAX_PINS, freshPinId, setPin } from '../../../core/scene/pins.js';
import { whoWears } from '../../../core/scene/wearing.js';
import { importMesh } from '../../../session/imports.js';
import { STILL_SAMPLES } from '../../../render/still.js';
import { Graphics } from '../../../render/graphics.js';
import { StageRenderer } from '../../../render/renderer.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState } from '../context.js';
import { PeekChip, PeekLegend, StillMark } from './PeekLegend.js';
import { OpticsPanel } from './OpticsPanel.js';
import { Handles, Pins } from './Overlay.js';
import { PropsPanel } from './PropsPanel.js';
import { StagePanel } from './StagePanel.js';

function ChipPanel({
  name,
  chip,
  width,
  align,
  children,
}: {
  name: string;
  chip: ReactNode;
  width: number;
  align: 'start' | 'end';
  children: ReactNode;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="stage-chip" aria-label={name}>
          {chip}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu max-h-none p-4" style={{ width }} align={align} sideOffset={6} collisionPadding={12}>
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A press that moved farther than this looked around instead of pointing. */
const STILL_PX = 4;

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
  const following = useBenchState((s) => s.following);
  const prop = useBenchState((s) => s.stage.props.find((p) => p.id === s.prop)?.name ?? 'No prop');
  const wearers = useBenchState((s) => whoWears(s.stage, s.effect).filter((w) => w.effect === s.effect.id).length);
  const [pinning, setPinning] = useState(false);
  const [moving, setMoving] = useState(false);
  const [busy, setBusy] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const pressed = useRef<{ x: number; y: number } | null>(null);

  const bring = (file: File) => {
    setBusy(`Reading ${file.name}`);
    importMesh(session, file, (share, triangles) =>
      setBusy(`Reading ${file.name}: ${Math.round(100 * share)} % of ${triangles.toLocaleString('en')} triangles`),
    ).then(
      ({ triangles, seconds, hadNormals, hadUv }) => {
        setBusy(null);
        const lacks = [
          ...(hadNormals ? [] : ['normals, which were made smooth']),
          ...(hadUv ? [] : ['uv, which is 0 everywhere']),
        ];
        const took = seconds >= 1 ? `, read in ${seconds.toFixed(1)} s` : '';
        const notice = `${file.name} has ${triangles.toLocaleString('en')} triangles${took}${lacks.length > 0 ? `, and no ${lacks.join(', and no ')}` : ''}.`;
        session.store.setState({ notice });
      },
      (error: Error) => {
        setBusy(null);
        session.store.setState({ notice: error.message });
      },
    );
  };

  const point = (event: PointerEvent<HTMLElement>) => {
    const from = pressed.current;
    pressed.current = null;
    if (!from || Math.hypot(event.clientX - from.x, event.clientY - from.y) > STILL_PX) return;
    const box = holder.current!.getBoundingClientRect();
    const hit = session.frames.view?.pointing.pick(
      (event.clientX - box.left) / box.width,
      (event.clientY - box.top) / box.height,
    );
    if (!hit) return;
    const { effect, stage } = session.store.getState();
    if (pinning) {
      const id = freshPinId(stage);
      setPinning(false);
      if (id === null)
        session.store.setState({ notice: `There are ${MAX_PINS} pins, as many as there may be. Take one away first.` });
      else session.documents.editStage(`Pin ${id}`, (d) => setPin(d, { pin: { id, ...hit } }));
    } else if (whoWears(stage, effect).some((w) => w.prop === hit.prop && w.effect === effect.id))
      session.choosing.prop(hit.prop);
  };

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
      const draft = new URLSearchParams(location.search).get('quality') === 'draft';
      renderer = new StageRenderer(new Graphics(canvas), { draft });
    } catch {
      setFailure('This browser has no WebGL2, so the stage stays dark. The sheet and its numbers still work.');
      canvas.remove();
      return;
    }
    const fit = () => {
      const ratio = Math.min(2, window.devicePixelRatio);
      const pixels = (side: number) => Math.max(1, Math.round(side * ratio));
      renderer.resize({ width: pixels(box.clientWidth), height: pixels(box.clientHeight) });
      session.frames.resized();
    };
    fit();
    session.frames.attach(renderer);
    const watcher = new ResizeObserver(fit);
    watcher.observe(box);
    const stop = session.frames.onDrawn((frame) => {
      canvas.dataset.frames = String(frame);
      canvas.dataset.time = String(session.clock.time);
    });
    return () => {
      stop();
      watcher.disconnect();
      session.frames.detach();
      canvas.remove();
    };
  }, [session]);

  return (
    <section
      ref={holder}
      aria-label="Stage"
      className={`relative min-h-0 min-w-0 overflow-hidden bg-base ${pinning ? 'cursor-crosshair' : ''}`}
      onPointerDown={(e) => {
        if (e.button === 0 && e.target instanceof HTMLCanvasElement) pressed.current = { x: e.clientX, y: e.clientY };
      }}
      onPointerUp={point}
      onDragOver={(e) => {
        if (following || ![...e.dataTransfer.items].some((i) => i.kind === 'file')) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const [file] = e.dataTransfer.files;
        if (file && !following) bring(file);
      }}
    >
      {over && (
        <p className="pointer-events-none absolute inset-2 z-10 flex items-center justify-center rounded-md border border-edge bg-base/70">
          Drop a mesh, a .glb file, to put it on the stage
        </p>
      )}
      {busy !== null && (
        <p role="status" className="stage-chip absolute bottom-12 left-3 z-10">
          {busy}
        </p>
      )}
      {failure && (
        <p role="alert" className="absolute inset-0 m-auto h-fit w-fit max-w-[360px] text-center text-muted">
          {failure}
        </p>
      )}
      {!bare && (
        <>
          <Pins />
          {moving && !following && <Handles />}
          <div className="absolute top-3 left-3 flex gap-2" inert={following}>
            <ChipPanel
              name="Props"
              width={340}
              align="start"
              chip={
                <>
                  <Box size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
                  {prop}
                  {wearers > 1 && <span className="num text-muted">×{wearers}</span>}
                </>
              }
            >
              <PropsPanel onFile={bring} />
            </ChipPanel>
            <Select
              label="Viewpoint"
              className="stage-chip"
              bare
              value={viewpoint ?? ''}
              choices={viewpoints}
              onChoose={(id) => session.frames.lookFrom(id)}
              prefix={<Camera size={14} strokeWidth={1.5} className="text-muted" aria-hidden />}
            />
            <ChipPanel
              name="Stage settings"
              width={292}
              align="start"
              chip={
                <>
                  <Waves size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
                  {stageName}
                </>
              }
            >
              <StagePanel />
            </ChipPanel>
          </div>
          <div className="absolute top-3 right-3 flex gap-2" inert={following}>
            <StillMark of={STILL_SAMPLES} />
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
            <PeekChip />
          </div>
          <PeekLegend />
          <div className="absolute bottom-3 left-3 flex gap-2">
            <button
              className={`stage-chip ${pinning ? 'border-edge' : ''}`}
              aria-pressed={pinning}
              disabled={following}
              onClick={() => setPinning(!pinning)}
              title="Then point at a prop: every strand's number there, now and over the loop"
            >
              <Pin size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
              {pinning ? 'Point at a prop' : 'Pin'}
            </button>
            <button
              className={`stage-chip ${moving ? 'border-edge' : ''}`}
              aria-pressed={moving}
              disabled={following}
              onClick={() => setMoving(!moving)}
              title="Shows handles that move the props and the key light"
            >
              <Move size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
              Move
            </button>
            <button className="stage-chip" onClick={() => session.frames.lookFrom(viewpoint ?? '')} title="Back to the viewpoint">
              <Maximize size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
              Frame
            </button>
            <button
              className="stage-chip"
              aria-pressed={raw}
              onClick={() => session.frames.setRaw(!raw)}
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
