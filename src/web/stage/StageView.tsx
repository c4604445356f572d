/** The stage: the canvas, and a few chips on it. */
import { Aperture, Box, Waves } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useRef, useState, type HTMLAttributes, type KeyboardEvent, type ReactNode, type RefObject } from 'react';
import { useDropzone } from 'react-dropzone';
import { whoWears } from '../../core/scene/wearing.js';
import { isMeshName } from '../../core/formats/meshNames.js';
import { importMesh } from '../../session/imports.js';
import { STILL_SAMPLES } from '../../render/still.js';
import type { Bench } from '../../session/bench.js';
import { lettersAllowed } from '../bench/sheet/letters.js';
import { propInHand } from '../../session/state.js';
import { useBench, useBenchState } from '../context.js';
import { Guide } from '../bench/guide/Guide.js';
import { PeekChip, PeekLegend, StillMark } from './PeekLegend.js';
import { AxisHandles } from './AxisHandles.js';
import { Doing, frameInHand, usePointing } from './Doing.js';
import { OpticsPanel } from './OpticsPanel.js';
import { Handles, Pins } from './Overlay.js';
import { Struck } from './Struck.js';
import { PropsPanel } from './PropsPanel.js';
import { StagePanel } from './StagePanel.js';
import { ViewpointMenu } from './ViewpointMenu.js';
import { useStageCanvas, type NoPicture } from './useStageCanvas.js';
import { When } from './When.js';
import { PopoverContent } from '../ui/PopoverContent.js';

function ChipPanel({
  name,
  says,
  chip,
  width,
  align,
  children,
}: {
  name: string;
  /** What is seen on it. */
  says: string;
  chip: ReactNode;
  width: number;
  align: 'start' | 'end';
  children: ReactNode;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="stage-chip min-w-0" aria-label={`${name}: ${says}`}>
          {chip}
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label={name}
        className="scroll max-h-[var(--radix-popover-content-available-height)] overflow-y-auto p-4"
        style={{ width }}
        align={align}
        sideOffset={6}
        collisionPadding={12}
      >
        {children}
      </PopoverContent>
    </Popover.Root>
  );
}

/** Brings a mesh in, with the files that were chosen together with it. */
export type BringFiles = (files: readonly File[]) => void;

interface FrameProps {
  /** What presses do, given the element that they are counted in. */
  readonly holder: RefObject<HTMLDivElement | null>;
  readonly pointing: HTMLAttributes<HTMLElement>;
  readonly aims?: boolean;
  /** A mesh that says what it is made of is put there as it is. */
  readonly asItIs?: boolean;
  readonly children: (bring: BringFiles) => ReactNode;
}

/** The picture of the stage, onto which meshes are dropped; what stands over it is given. */
export function StageFrame({ holder, pointing, aims = false, asItIs = false, children }: FrameProps) {
  const session = useBench();
  const following = useBenchState((s) => s.following);
  const { lacking, again } = useStageCanvas(holder);
  const { busy, bring } = useMeshes(asItIs);
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    disabled: following,
    onDrop: (files) => files.length > 0 && bring(files),
  });
  return (
    <section
      {...getRootProps({ role: 'region', tabIndex: undefined })}
      ref={holder}
      aria-label="Stage"
      className={`relative min-h-0 min-w-0 overflow-hidden bg-base small:sticky small:top-0 small:z-10 small:order-1 small:h-[45vh] small:min-h-[176px] small:shrink-0 ${aims ? 'cursor-crosshair' : ''}`}
      {...pointing}
      onKeyDown={(e) => onStageKey(session, e)}
    >
      {isDragActive && (
        <p className="pointer-events-none absolute inset-2 z-10 flex items-center justify-center rounded-md border border-edge bg-base/70">
          Drop a mesh, .glb, .gltf with its files, .obj or .ply, to put it on the stage
        </p>
      )}
      {busy !== null && (
        <p role="status" className="stage-chip absolute bottom-12 left-3 z-10">
          {busy}
        </p>
      )}
      {lacking && <Lacking why={lacking} onAgain={again} />}
      {children(bring)}
    </section>
  );
}

const LACKING: Record<NoPicture, string> = {
  never: 'This browser has no WebGL2, so the stage stays dark. The sheet and its numbers still work.',
  returning: 'The graphics card let go of the picture. It is being drawn anew; your work is safe.',
  gone: 'The graphics card let go of the picture and does not give it back. Your work is safe; the sheet and its numbers still work.',
};

/** Why there is no picture, and what can be done about it. */
function Lacking({ why, onAgain }: { why: NoPicture; onAgain: () => void }) {
  return (
    <div
      role={why === 'returning' ? 'status' : 'alert'}
      className="absolute inset-0 m-auto h-fit w-fit max-w-[360px] p-4 text-center text-muted"
    >
      <p>{LACKING[why]}</p>
      {why === 'gone' && (
        <button className="mt-3 button" onClick={onAgain}>
          Draw it again
        </button>
      )}
    </div>
  );
}

/** @param aside it stands beside something larger: only what is seen and when is said */
export function StageView({ aside = false }: { aside?: boolean }) {
  const following = useBenchState((s) => s.following);
  const bare = useBenchState((s) => s.bare);
  const [pinning, setPinning] = useState(false);
  const striking = useBenchState((s) => s.striking);
  const [moving, setMoving] = useState(false);
  const holder = useRef<HTMLDivElement>(null);
  const pointing = usePointing(holder, pinning, () => setPinning(false));
  return (
    <StageFrame holder={holder} pointing={pointing} aims={pinning || striking}>
      {(bring) =>
        !bare && (
          <>
            <Pins />
            <Struck />
            {moving && !following && (
              <>
                <Handles />
                <AxisHandles />
              </>
            )}
            <div className="pointer-events-none absolute inset-x-3 top-3 flex justify-between gap-2 *:pointer-events-auto small:inset-x-1.5 small:top-1.5 small:flex-wrap small:gap-1">
              <WhatIsSeen onFile={bring} />
              <HowItIsSeen />
            </div>
            <PeekLegend />
            {!aside && <Guide />}
            {aside ? <When /> : <Doing pinning={pinning} onPinning={setPinning} moving={moving} onMoving={setMoving} />}
          </>
        )
      }
    </StageFrame>
  );
}

/** Meshes of the artist's own: brought onto the stage, with what was found in them. */
function useMeshes(asItIs: boolean) {
  const session = useBench();
  const [busy, setBusy] = useState<string | null>(null);
  const tell = (notice: string) => {
    setBusy(null);
    session.store.setState({ notice });
  };
  const bring: BringFiles = (files) => {
    const name = files.find((f) => isMeshName(f.name))?.name ?? files[0]!.name;
    setBusy(`Reading ${name}`);
    const read = (share: number, triangles: number) =>
      setBusy(`Reading ${name}: ${Math.round(100 * share)} % of ${triangles.toLocaleString('en')} triangles`);
    importMesh(session, files, read, asItIs).then(
      ({ triangles, seconds, hadNormals, hadUv }) => {
        const lacks = [
          ...(hadNormals ? [] : ['normals, which were made smooth']),
          ...(hadUv ? [] : ['uv, which is 0 everywhere']),
        ];
        const took = seconds >= 1 ? `, read in ${seconds.toFixed(1)} s` : '';
        const without = lacks.length > 0 ? `, and no ${lacks.join(', and no ')}` : '';
        tell(`${name} has ${triangles.toLocaleString('en')} triangle${triangles === 1 ? '' : 's'}${took}${without}.`);
      },
      (error: Error) => tell(error.message),
    );
  };
  return { busy, bring };
}

/** Keys of the stage, while it has the focus. */
function onStageKey(session: Bench, event: KeyboardEvent): void {
  if (!(event.target instanceof HTMLCanvasElement) || event.ctrlKey || event.metaKey || event.altKey || !lettersAllowed()) return;
  const key = event.key.toLowerCase();
  if (key === 'f') frameInHand(session);
  else if (key === 'v') session.frames.lookFrom(session.store.getState().viewpoint ?? '');
  else return;
  event.preventDefault();
  event.stopPropagation();
}

/** Which prop, from where, on which stage. */
function WhatIsSeen({ onFile }: { onFile: BringFiles }) {
  const stageName = useBenchState((s) => s.stage.name);
  const following = useBenchState((s) => s.following);
  const prop = useBenchState((s) => propInHand(s)?.name ?? 'No prop');
  const wearers = useBenchState((s) => whoWears(s.stage, s.effect).filter((w) => w.effect === s.effect.id).length);
  return (
    <div className="flex min-w-0 gap-2 small:gap-1" inert={following}>
      <ChipPanel
        name="Props"
        says={wearers > 1 ? `${prop} ×${wearers}` : prop}
        width={324}
        align="start"
        chip={
          <>
            <Box size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
            <span className="truncate" title={prop}>
              {prop}
            </span>
            {wearers > 1 && <span className="num text-muted">×{wearers}</span>}
          </>
        }
      >
        <PropsPanel onFile={onFile} />
      </ChipPanel>
      <ViewpointMenu />
      <ChipPanel
        name="Stage settings"
        says={stageName}
        width={292}
        align="start"
        chip={
          <>
            <Waves size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
            <span className="truncate" title={stageName}>
              {stageName}
            </span>
          </>
        }
      >
        <StagePanel />
      </ChipPanel>
    </div>
  );
}

/** How far the still is, the optics, and what is peeked at. */
function HowItIsSeen() {
  const following = useBenchState((s) => s.following);
  const { exposure, bloom } = useBenchState((s) => s.stage.optics);
  const ev = exposure.toFixed(1);
  const bloomText = bloom.on ? `${bloom.threshold.toFixed(1)} / ${bloom.intensity.toFixed(1)}` : 'off';
  return (
    <div className="flex shrink-0 gap-2 small:shrink small:flex-wrap small:gap-1" inert={following}>
      <StillMark of={STILL_SAMPLES} />
      <ChipPanel
        name="Optics"
        says={`${ev} EV bloom ${bloomText}`}
        width={292}
        align="end"
        chip={
          <>
            <Aperture size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
            <span className="num">{ev} EV</span>
            <span className="text-muted max-[1100px]:hidden">bloom</span>
            <span className="num max-[1100px]:hidden">{bloomText}</span>
          </>
        }
      >
        <OpticsPanel />
      </ChipPanel>
      <PeekChip />
    </div>
  );
}
