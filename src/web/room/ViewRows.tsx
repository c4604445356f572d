/** A viewpoint: how wide it sees, how its lens bends; and the slow move through the viewpoints. */
import { Camera, Pause, Play, Trash2 } from 'lucide-react';
import { deleteViewpoint, freshViewpoint, setMove, setViewpoint } from '../../core/scene/edits.js';
import { LEAST_BEND, MOST_BEND } from '../../core/optics/lens.js';
import type { Stage, Viewpoint } from '../../core/scene/stage.js';
import { useBench, useBenchState } from '../context.js';
import { useStage } from '../stage/useStage.js';
import { SettingRow, SwitchRow } from '../ui/SettingRow.js';

export function ViewpointSettings({ id }: { id: string }) {
  const { frames, documents } = useBench();
  const { stage, change, done } = useStage();
  const point = stage.viewpoints.find((v) => v.id === id);
  if (!point) return null;
  const { name } = point;
  const set = (what: string, to: Partial<Viewpoint>) => {
    change(`${what} of ${name}`, (d) => setViewpoint(d, { viewpoint: { ...point, ...to } }));
    frames.lookFrom(id);
  };
  const seen = () => frames.view?.looking.view;
  const keep = () => {
    const view = seen();
    if (!view) return;
    const made = { ...freshViewpoint(stage.viewpoints), ...view, lensBend: point.lensBend };
    documents.editStage(`Keep ${made.name}`, (d) => setViewpoint(d, { viewpoint: made }));
    frames.lookFrom(made.id);
  };
  return (
    <section aria-label={`Settings of ${name}`}>
      <h2 className="head mb-1 truncate text-[14px] leading-5">{name}</h2>
      <SettingRow
        label="Field of view"
        value={Math.round(point.fov * 10) / 10}
        unit="°"
        soft={[15, 90]}
        hard={[5, 150]}
        step={1}
        onChange={(fov) => set('Field of view', { fov })}
        onDone={done}
      />
      <SettingRow
        label="Lens bend"
        value={point.lensBend}
        soft={[LEAST_BEND, MOST_BEND]}
        hard={[LEAST_BEND, MOST_BEND]}
        step={0.01}
        onChange={(lensBend) => set('Lens bend', { lensBend })}
        onDone={done}
      />
      <div className="mt-2 grid grid-cols-2 gap-2">
        <button className="button" onClick={keep} title="As a new viewpoint">
          <Camera size={14} strokeWidth={1.5} aria-hidden />
          Keep what is seen
        </button>
        <button className="button" onClick={() => seen() && set('View', seen()!)}>
          Move it here
        </button>
        <button
          className="button"
          disabled={stage.viewpoints.length < 2}
          onClick={() => {
            documents.editStage(`Delete ${name}`, (d) => deleteViewpoint(d, { id }));
            frames.lookFrom(stage.viewpoints.find((v) => v.id !== id)!.id);
          }}
        >
          <Trash2 size={14} strokeWidth={1.5} aria-hidden />
          Delete
        </button>
      </div>
      <SlowMove />
    </section>
  );
}

const FRESH: NonNullable<Stage['move']> = { viewpoints: [], seconds: 20, closed: false };

/** Which viewpoints the camera goes through, in which order, and how long it takes. */
function SlowMove() {
  const { store, clock, frames } = useBench();
  const { stage, change, done } = useStage();
  const moving = useBenchState((s) => s.moving);
  const move = stage.move ?? FRESH;
  const set = (what: string, to: Partial<typeof FRESH>) =>
    change(`Slow move: ${what}`, (d) => setMove(d, { move: { ...move, ...to } }));
  const { viewpoints } = move;
  const play = () => {
    store.setState({ moving: !moving });
    if (moving) frames.lookFrom(store.getState().viewpoint ?? '');
    else if (!clock.playing) clock.play();
    frames.request();
  };
  return (
    <div className="-mx-4 mt-3 border-t border-line px-4 pt-2">
      <div className="flex h-8 items-center justify-between">
        <h3 className="head text-[13px]">Slow move</h3>
        <button className="button min-h-6" aria-pressed={moving} disabled={viewpoints.length < 2} onClick={play}>
          {moving ? <Pause size={13} strokeWidth={1.5} aria-hidden /> : <Play size={13} strokeWidth={1.5} aria-hidden />}
          {moving ? 'Stop' : 'Show'}
        </button>
      </div>
      <ul aria-label="Viewpoints of the slow move">
        {stage.viewpoints.map(({ id, name }) => {
          const at = viewpoints.indexOf(id);
          return (
            <li key={id}>
              <button
                className="flex h-7 w-full items-center gap-2 rounded-sm px-1 text-left hover:bg-raised"
                aria-pressed={at >= 0}
                onClick={() =>
                  set(at < 0 ? `through ${name}` : `without ${name}`, {
                    viewpoints: at < 0 ? [...viewpoints, id] : viewpoints.filter((v) => v !== id),
                  })
                }
              >
                <span className="num w-4 text-center text-muted">{at < 0 ? '' : at + 1}</span>
                <span className={at < 0 ? 'text-muted' : ''}>{name}</span>
              </button>
            </li>
          );
        })}
      </ul>
      <SettingRow
        label="Takes"
        value={move.seconds}
        unit="s"
        soft={[4, 60]}
        hard={[0.5, 3600]}
        step={1}
        onChange={(seconds) => set('length', { seconds })}
        onDone={done}
      />
      <SwitchRow label="Goes round" on={move.closed} onChange={(closed) => set('round', { closed })} />
    </div>
  );
}
