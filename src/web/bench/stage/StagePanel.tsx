/** The stage: which one, its key light, surroundings, ground, spill and viewpoints. */
import { useState } from 'react';
import { setViewpoint } from '../../../core/scene/edits.js';
import { SURROUNDINGS } from '../../../core/scene/surroundings.js';
import type { Stage } from '../../../core/scene/stage.js';
import { useStages } from '../../data/library.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { Select } from '../../ui/Select.js';
import { SettingRow, SwitchRow } from '../../ui/SettingRow.js';
import { useBench, useBenchState } from '../context.js';

function ColourRow({
  label,
  rgb,
  onChange,
}: {
  label: string;
  rgb: readonly [number, number, number];
  onChange: (rgb: [number, number, number]) => void;
}) {
  const session = useBench();
  return (
    <div className="flex h-8 items-center justify-between">
      <span>{label}</span>
      <ColourButton
        label={label}
        colour={{ rgb: [...rgb], intensity: 1, unit: 'factor' }}
        onChange={(c) => onChange(c.rgb.map((v) => v * c.intensity) as [number, number, number])}
        onDone={() => session.documents.endGesture()}
      />
    </div>
  );
}

export function StagePanel() {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const viewpoint = useBenchState((s) => s.viewpoint);
  const stages = useStages();
  const [moving, setMoving] = useState(false);
  /** A stage that others use, until it is said whether it is shared with them. */
  const [wanted, setWanted] = useState<{ id: string; users: readonly string[] } | null>(null);
  const done = () => session.documents.endGesture();
  const change = (label: string, recipe: (d: Stage) => void) => session.documents.editStage(label, recipe, `stage ${label}`);
  const key = stage.lights.find((l) => l.kind === 'key');
  const view = stage.viewpoints.find((v) => v.id === viewpoint);
  const elsewhere = (id: string) => {
    if (id === stage.id || moving) return;
    const users = (stages.data?.find((s) => s.id === id)?.usedBy ?? []).filter(
      (name) => name !== session.store.getState().effect.name,
    );
    if (users.length > 0) setWanted({ id, users });
    else void stand(id, false);
  };
  const stand = async (id: string, copy: boolean) => {
    setMoving(true);
    setWanted(null);
    await session.documents.standOn(id, copy).catch((error: Error) => session.store.setState({ notice: error.message }));
    setMoving(false);
  };
  return (
    <div onKeyDown={(e) => e.stopPropagation()}>
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="head text-[14px] leading-5">Stage</h2>
        <Select
          label="Stage"
          value={stage.id}
          choices={
            stages.data?.some((s) => s.id === stage.id)
              ? stages.data
              : [{ id: stage.id, name: stage.name }, ...(stages.data ?? [])]
          }
          onChoose={elsewhere}
        />
      </div>
      {wanted && (
        <div
          role="group"
          aria-label="A stage that others use"
          className="mb-2 border-l-2 border-caution pl-2.5 text-[12px] leading-4"
        >
          <p>
            {stages.data?.find((s) => s.id === wanted.id)?.name} is the stage of {wanted.users.slice(0, 3).join(', ')}
            {wanted.users.length > 3 ? ` and ${wanted.users.length - 3} more` : ''}. What is changed on it changes for all.
          </p>
          <div className="mt-1.5 flex gap-2">
            <button className="button" onClick={() => void stand(wanted.id, true)}>
              Use a copy
            </button>
            <button className="button" onClick={() => void stand(wanted.id, false)}>
              Share it
            </button>
            <button className="plain" onClick={() => setWanted(null)}>
              Stay here
            </button>
          </div>
        </div>
      )}
      {key && (
        <>
          <SettingRow
            label="Key light"
            value={key.intensity}
            unit="x"
            soft={[0, 4]}
            hard={[0, 1e6]}
            onChange={(v) => change('Key light', (d) => void (d.lights.find((l) => l.id === key.id)!.intensity = v))}
            onDone={done}
          />
          <ColourRow
            label="Key light colour"
            rgb={key.rgb}
            onChange={(rgb) => change('Key light colour', (d) => void (d.lights.find((l) => l.id === key.id)!.rgb = rgb))}
          />
          <SwitchRow
            label="Key light casts shadows"
            on={key.shadow}
            onChange={(on) => change('Shadows', (d) => void (d.lights.find((l) => l.id === key.id)!.shadow = on))}
          />
        </>
      )}
      <div className="flex h-8 items-center justify-between gap-2">
        <span>Light all around</span>
        <Select
          label="Light all around"
          value={stage.surroundings.asset ?? ''}
          choices={[{ id: '', name: 'One colour' }, ...SURROUNDINGS]}
          onChoose={(id) => change('Surroundings', (d) => void (d.surroundings.asset = id === '' ? null : id))}
        />
      </div>
      <SettingRow
        label="Surroundings"
        value={stage.surroundings.strength}
        unit="x"
        soft={[0, 1]}
        hard={[0, 1000]}
        step={0.01}
        onChange={(v) => change('Surroundings', (d) => void (d.surroundings.strength = v))}
        onDone={done}
      />
      {stage.surroundings.asset === null ? (
        <ColourRow
          label="Surroundings colour"
          rgb={stage.surroundings.rgb}
          onChange={(rgb) => change('Surroundings colour', (d) => void (d.surroundings.rgb = rgb))}
        />
      ) : (
        <>
          <SettingRow
            label="Turned"
            value={stage.surroundings.turn}
            unit="°"
            soft={[-180, 180]}
            hard={[-1e6, 1e6]}
            step={1}
            onChange={(v) => change('Turn the surroundings', (d) => void (d.surroundings.turn = v))}
            onDone={done}
          />
          <SwitchRow
            label="Seen behind everything"
            on={stage.surroundings.seen}
            onChange={(on) => change('See the surroundings', (d) => void (d.surroundings.seen = on))}
          />
        </>
      )}
      <SwitchRow label="Ground" on={stage.ground.on} onChange={(on) => change('Ground', (d) => void (d.ground.on = on))} />
      {stage.ground.on && (
        <>
          <SwitchRow
            label="Wall behind"
            on={stage.ground.wall}
            onChange={(on) => change('Wall', (d) => void (d.ground.wall = on))}
          />
          <ColourRow
            label="Ground colour"
            rgb={stage.ground.rgb}
            onChange={(rgb) => change('Ground colour', (d) => void (d.ground.rgb = rgb))}
          />
        </>
      )}
      <SettingRow
        label="Spill"
        value={stage.spill.on ? stage.spill.strength : 0}
        unit="x"
        soft={[0, 2]}
        hard={[0, 100]}
        onChange={(v) => change('Spill', (d) => void (d.spill = { on: v > 0, strength: v }))}
        onDone={done}
      />
      {view && (
        <div className="mt-1 flex h-8 items-center justify-between gap-3 border-t border-line pt-2">
          <span className="truncate text-muted" title={`Viewpoint ${view.name}`}>
            {view.name}
          </span>
          <button
            className="button min-h-6"
            onClick={() => {
              const seen = session.frames.view?.looking.view;
              if (seen)
                session.documents.editStage(`Keep ${view.name}`, (d) => setViewpoint(d, { viewpoint: { ...view, ...seen } }));
            }}
          >
            Keep what is seen
          </button>
        </div>
      )}
    </div>
  );
}
