/** The picture of the Stage room: handles of what is in hand, or the brush on what is painted. */
import { Maximize, Move, Undo2 } from 'lucide-react';
import { useEffect, useRef, useState, type MutableRefObject } from 'react';
import { useBench, useBenchState } from '../context.js';
import { AxisHandles } from '../stage/AxisHandles.js';
import { frameInHand, usePointing } from '../stage/Doing.js';
import { Handles } from '../stage/Overlay.js';
import { StageFrame } from '../stage/StageView.js';
import { ViewpointMenu } from '../stage/ViewpointMenu.js';
import { When } from '../stage/When.js';
import type { Chosen } from './chosen.js';
import { ZoneBoxes } from './ZoneBoxes.js';
import { PaintOverlay } from './PaintOverlay.js';
import { usePaintHands } from './usePaintHands.js';
import { usePainting } from './usePainting.js';

interface Props {
  readonly chosen: Chosen;
  readonly onChoose: (chosen: Chosen) => void;
  /** Where what brings a mesh file in is put, for who has one. */
  readonly bringing: MutableRefObject<(files: readonly File[]) => void>;
}

export function RoomPicture({ chosen, onChoose, bringing }: Props) {
  const session = useBench();
  const following = useBenchState((s) => s.following);
  const painted = usePainting((s) => s.prop);
  const preparing = usePainting((s) => s.preparing);
  const holder = useRef<HTMLDivElement>(null);
  const [moving, setMoving] = useState(true);
  const pointing = usePointing(
    holder,
    false,
    () => undefined,
    () => onChoose({ kind: 'prop' }),
  );
  const painting = usePaintHands(holder);
  const isPainting = painted !== null;
  return (
    <StageFrame holder={holder} pointing={isPainting ? painting : pointing} asItIs>
      {(bring) => (
        <>
          <Bringing into={bringing} bring={bring} />
          {!isPainting && moving && !following && chosen.kind === 'prop' && <AxisHandles />}
          {!isPainting && moving && !following && chosen.kind === 'light' && <Handles />}
          {!isPainting && moving && !following && chosen.kind === 'optics' && <ZoneBoxes />}
          <div className="pointer-events-none absolute inset-x-3 top-3 flex justify-between gap-2 *:pointer-events-auto">
            <div className="flex min-w-0 gap-2" inert={following}>
              <ViewpointMenu />
            </div>
          </div>
          {preparing && (
            <p role="status" className="stage-chip absolute bottom-12 left-3">
              Getting the mesh ready for the brush: <span className="num">{Math.round(100 * preparing.share)} %</span>
              <button className="plain px-1" onClick={() => session.painting.end()}>
                Cancel
              </button>
            </p>
          )}
          {isPainting ? (
            <PaintOverlay holder={holder} />
          ) : (
            <>
              <When />
              <div className="absolute right-3 bottom-3 flex gap-2 max-[420px]:bottom-11">
                <button
                  className={`stage-chip ${moving ? 'border-edge' : ''}`}
                  aria-pressed={moving}
                  disabled={following}
                  onClick={() => setMoving(!moving)}
                >
                  <Move size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
                  Handles
                </button>
                <button className="stage-chip" onClick={() => frameInHand(session)} title="Shows all of the prop in hand  F">
                  <Maximize size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
                  Frame
                </button>
                <BackToViewpoint />
              </div>
            </>
          )}
        </>
      )}
    </StageFrame>
  );
}

/** Hands what brings files in to who has them. */
function Bringing({ into, bring }: { into: Props['bringing']; bring: (files: readonly File[]) => void }) {
  useEffect(() => {
    into.current = bring;
  });
  return null;
}

function BackToViewpoint() {
  const { frames } = useBench();
  const viewpoint = useBenchState((s) => s.viewpoint);
  const name = useBenchState((s) => s.stage.viewpoints.find((v) => v.id === s.viewpoint)?.name ?? '');
  return (
    <button
      className="stage-chip"
      onClick={() => frames.lookFrom(viewpoint ?? '')}
      aria-label={`Back to the viewpoint ${name}`}
      title={`Back to ${name}  V`}
    >
      <Undo2 size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
    </button>
  );
}
