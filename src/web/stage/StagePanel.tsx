/** The stage: which one, its lights, surroundings, haze, ground and spill. */
import { Clapperboard, List } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { SURROUNDINGS } from '../../core/scene/surroundings.js';
import type { Stage } from '../../core/scene/stage.js';
import { useStages } from '../data/library.js';
import { Select } from '../ui/Select.js';
import { SelectRow, SettingRow, SwitchRow } from '../ui/SettingRow.js';
import { useBench, useBenchState } from '../context.js';
import { ownKeys } from '../ui/keys.js';
import { ColourRow } from './ColourRow.js';
import { LightsOfStage } from './LightRows.js';
import { MotesOfStage } from './MoteRows.js';
import { StageList } from './StageList.js';
import { useStage } from './useStage.js';

/** Light from all around, haze, and the floor. */
export function Around() {
  return (
    <section aria-label="Surroundings" onKeyDown={ownKeys}>
      <AllAround />
      <HazeRows />
      <Floor />
    </section>
  );
}

export function StagePanel() {
  // All stages take the room of this one's settings.
  const [listed, setListed] = useState(false);
  return (
    <div onKeyDown={ownKeys}>
      <Whereabouts listed={listed} onListed={setListed} />
      {!listed && (
        <>
          <LightsOfStage />
          <MotesOfStage />
          <AllAround />
          <HazeRows />
          <Floor />
        </>
      )}
    </div>
  );
}

/** On which stage the effect stands; one that others use is copied or shared, as is said. */
function Whereabouts({ listed, onListed }: { listed: boolean; onListed: (on: boolean) => void }) {
  const { store, documents } = useBench();
  const { stage } = useStage();
  const stages = useStages();
  const effect = useBenchState((s) => s.effect.id);
  const [moving, setMoving] = useState(false);
  /** A stage that others use, until it is said whether it is shared with them. */
  const [wanted, setWanted] = useState<{ id: string; users: readonly string[] } | null>(null);
  const stand = async (id: string, copy: boolean) => {
    setMoving(true);
    setWanted(null);
    await documents.standOn(id, copy).catch((error: Error) => store.setState({ notice: error.message }));
    setMoving(false);
  };
  const elsewhere = (id: string) => {
    if (id === stage.id || moving) return;
    const { name: own } = store.getState().effect;
    const users = (stages.data?.find((s) => s.id === id)?.usedBy ?? []).filter((name) => name !== own);
    if (users.length > 0) setWanted({ id, users });
    else void stand(id, false);
  };
  const known = stages.data?.some((s) => s.id === stage.id);
  return (
    <>
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="head text-[14px] leading-5">Stage</h2>
        <span className="flex items-center gap-1">
          <Select
            label="Stage"
            value={stage.id}
            choices={known ? stages.data! : [{ id: stage.id, name: stage.name }, ...(stages.data ?? [])]}
            onChoose={elsewhere}
          />
          <Link
            className="plain"
            to={`/stages/${stage.id}?effect=${effect}`}
            aria-label="Open in the Stage room"
            title="The Stage room: all that stands here, and painting it"
          >
            <Clapperboard size={16} strokeWidth={1.5} aria-hidden />
          </Link>
          <button
            className={`plain ${listed ? 'text-ink' : ''}`}
            aria-expanded={listed}
            aria-label="All stages"
            title="All stages: who stands where; rename, duplicate, delete"
            onClick={() => onListed(!listed)}
          >
            <List size={16} strokeWidth={1.5} aria-hidden />
          </button>
        </span>
      </div>
      {listed && <StageList onChoose={elsewhere} />}
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
    </>
  );
}

const FRESH_HAZE = { rgb: [0.05, 0.06, 0.07] as [number, number, number], density: 0, falls: null, from: 0 };

function HazeRows() {
  const { stage, change, done } = useStage();
  const haze = stage.haze ?? FRESH_HAZE;
  const set = (what: string, to: Partial<NonNullable<Stage['haze']>>) =>
    change(what, (d) => void (d.haze = { ...(d.haze ?? FRESH_HAZE), ...to }));
  return (
    <>
      <SettingRow
        label="Haze"
        value={haze.density}
        unit="/m"
        soft={[0, 0.3]}
        hard={[0, 100]}
        step={0.005}
        onChange={(density) => set('Haze', { density })}
        onDone={done}
      />
      {haze.density > 0 && (
        <>
          <ColourRow label="Haze colour" rgb={haze.rgb} onChange={(rgb) => set('Haze colour', { rgb })} />
          <SettingRow
            label="Haze falls over"
            value={haze.falls ?? 0}
            unit="m"
            soft={[0, 20]}
            hard={[0, 1e6]}
            step={0.5}
            onChange={(v) => set('Haze falls', { falls: v > 0 ? v : null })}
            onDone={done}
          />
        </>
      )}
    </>
  );
}

function AllAround() {
  const { stage, change, done } = useStage();
  const { surroundings } = stage;
  return (
    <>
      <SelectRow
        name="Light all around"
        value={surroundings.asset ?? ''}
        choices={[{ id: '', name: 'One colour' }, ...SURROUNDINGS]}
        onChoose={(id) => change('Surroundings', (d) => void (d.surroundings.asset = id === '' ? null : id))}
      />
      <SettingRow
        label="Surroundings"
        value={surroundings.strength}
        unit="x"
        soft={[0, 1]}
        hard={[0, 1000]}
        step={0.01}
        onChange={(v) => change('Surroundings', (d) => void (d.surroundings.strength = v))}
        onDone={done}
      />
      {surroundings.asset === null ? (
        <ColourRow
          label="Surroundings colour"
          rgb={surroundings.rgb}
          onChange={(rgb) => change('Surroundings colour', (d) => void (d.surroundings.rgb = rgb))}
        />
      ) : (
        <>
          <SettingRow
            label="Turned"
            value={surroundings.turn}
            unit="°"
            soft={[-180, 180]}
            hard={[-1e6, 1e6]}
            step={1}
            onChange={(v) => change('Turn the surroundings', (d) => void (d.surroundings.turn = v))}
            onDone={done}
          />
          <SwitchRow
            label="Seen behind everything"
            on={surroundings.seen}
            onChange={(on) => change('See the surroundings', (d) => void (d.surroundings.seen = on))}
          />
        </>
      )}
    </>
  );
}

/** What stands under and behind everything, and the light that effects throw on it. */
function Floor() {
  const { stage, change, done } = useStage();
  const { ground, spill } = stage;
  return (
    <>
      <SwitchRow label="Ground" on={ground.on} onChange={(on) => change('Ground', (d) => void (d.ground.on = on))} />
      {ground.on && (
        <>
          <SwitchRow label="Wall behind" on={ground.wall} onChange={(on) => change('Wall', (d) => void (d.ground.wall = on))} />
          <ColourRow
            label="Ground colour"
            rgb={ground.rgb}
            onChange={(rgb) => change('Ground colour', (d) => void (d.ground.rgb = rgb))}
          />
        </>
      )}
      <SettingRow
        label="Spill"
        value={spill.on ? spill.strength : 0}
        unit="x"
        soft={[0, 2]}
        hard={[0, 100]}
        onChange={(v) => change('Spill', (d) => void (d.spill = { on: v > 0, strength: v }))}
        onDone={done}
      />
    </>
  );
}
