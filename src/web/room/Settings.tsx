/** The settings of what is chosen: a prop and what it wears, a light, motes, what is all around; or the paint of a prop. */
import { Copy, FlipHorizontal2, Link2, Paintbrush, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { ownDefinition } from '../../core/scene/definitions.js';
import { deleteProp, groupProp, propOf, surfaceProp } from '../../core/scene/edits.js';
import type { Prop } from '../../core/scene/stage.js';
import { whoWears } from '../../core/scene/wearing.js';
import { duplicate, groupsGo, letGroupsGo, mirror } from '../../session/standing.js';
import { propInHand } from '../../session/state.js';
import { useBench, useBenchState } from '../context.js';
import { ColourRow } from '../stage/ColourRow.js';
import { LightsOfStage } from '../stage/LightRows.js';
import { MotesOfStage } from '../stage/MoteRows.js';
import { OpticsPanel } from '../stage/OpticsPanel.js';
import { Around } from '../stage/StagePanel.js';
import { ownKeys } from '../ui/keys.js';
import { SeedRow, SelectRow, SettingRow, SwitchRow } from '../ui/SettingRow.js';
import type { Chosen } from './chosen.js';
import { PaintPanel } from './PaintPanel.js';
import { Scatter } from './Scatter.js';
import { ViewpointSettings } from './ViewRows.js';
import { ZonesOfStage } from './ZoneRows.js';
import { Wears } from './Wears.js';
import { usePainting } from './usePainting.js';

export function Settings({ chosen }: { chosen: Chosen }) {
  const painted = usePainting((s) => s.prop);
  const inHand = useBenchState(propInHand);
  return (
    <aside className="scroll min-h-0 overflow-y-auto border-l border-line bg-panel px-4 py-2" aria-label="Settings">
      {painted !== null ? (
        <PaintPanel />
      ) : chosen.kind === 'prop' ? (
        inHand ? (
          <PropSettings prop={inHand} />
        ) : (
          <p className="text-muted">Nothing stands here yet. Add a prop, or drop a mesh on the picture.</p>
        )
      ) : (
        <div onKeyDown={ownKeys}>
          {chosen.kind === 'light' && <LightsOfStage key={chosen.id} first={chosen.id} />}
          {chosen.kind === 'motes' && <MotesOfStage key={chosen.id} first={chosen.id} />}
          {chosen.kind === 'around' && <Around />}
          {chosen.kind === 'viewpoint' && <ViewpointSettings id={chosen.id} />}
          {chosen.kind === 'optics' && <OpticsPanel />}
          {chosen.kind === 'optics' && <ZonesOfStage />}
        </div>
      )}
      {(painted !== null || chosen.kind !== 'optics') && (
        <div className="-mx-4 mt-3 border-t border-line px-4 pt-3">
          <OpticsPanel />
        </div>
      )}
    </aside>
  );
}

const GREY: NonNullable<Prop['surface']> = { rgb: [0.216, 0.216, 0.216], roughness: 0.6, metalness: 0 };

/** What it is made of, while it wears nothing. */
function Surface({ prop }: { prop: Prop }) {
  const { documents } = useBench();
  const { id, name, surface, source } = prop;
  const now = surface ?? GREY;
  const set = (what: string, to: Partial<typeof GREY>) =>
    documents.editStage(`${what} of ${name}`, (d) => surfaceProp(d, { id, surface: { ...now, ...to } }), `surface ${what} ${id}`);
  const number = (label: string, key: 'roughness' | 'metalness') => (
    <SettingRow
      label={label}
      value={now[key]}
      soft={[0, 1]}
      hard={[0, 1]}
      onChange={(v) => set(label, { [key]: v })}
      onDone={() => documents.endGesture()}
    />
  );
  // A mesh is what its file says, until it is to be something else.
  if (!surface && 'asset' in source)
    return (
      <div className="flex h-8 items-center justify-between">
        <span>Made of</span>
        <button
          className="button min-h-6"
          onClick={() => set('Surface', {})}
          title="It is what its file says; then it is one plain surface"
        >
          what its file says
        </button>
      </div>
    );
  return (
    <>
      <ColourRow label="Colour" rgb={now.rgb} onChange={(rgb) => set('Colour', { rgb })} />
      {number('Roughness', 'roughness')}
      {number('Metalness', 'metalness')}
      {surface && (
        <div className="flex h-8 items-center justify-end">
          <button
            className="button min-h-6"
            onClick={() => documents.editStage(`Surface of ${name}`, (d) => surfaceProp(d, { id, surface: undefined }))}
          >
            {'asset' in source ? 'As its file says' : 'As it was at first'}
          </button>
        </div>
      )}
    </>
  );
}

/** With whom it shares its definition; pressed, it is its own. */
function Shares({ prop }: { prop: Prop }) {
  const { documents } = useBench();
  const others = useBenchState((s) => s.stage.props).filter((p) => p.id !== prop.id && p.definition === prop.definition);
  if (prop.definition === undefined || others.length === 0) return null;
  const names = others.map((p) => p.name);
  return (
    <div className="flex h-8 items-center justify-between gap-2">
      <span className="min-w-0 truncate" title={`What it is, its paint and what it wears is that of ${names.join(', ')} too`}>
        Shares with {names.length === 1 ? names[0] : `${names.length} others`}
      </span>
      <button
        className="button min-h-6 shrink-0"
        onClick={() => documents.editStage(`${prop.name} by itself`, (d) => ownDefinition(d, { id: prop.id }))}
      >
        Make it its own
      </button>
    </div>
  );
}

/** In which group it is, and whether it goes with it. */
function Grouping({ prop }: { prop: Prop }) {
  const { documents } = useBench();
  const { id, name, group } = prop;
  const [together, setTogether] = useState(groupsGo);
  const groups = useBenchState((s) => s.stage.props)
    .map((p) => p.group)
    .filter((g): g is string => g !== null);
  return (
    <>
      <SelectRow
        name="Group"
        label={`${name} group`}
        value={group ?? ''}
        choices={[
          { id: '', name: 'none' },
          ...[...new Set(groups)].map((g) => ({ id: g, name: g })),
          ...(group === null ? [{ id: '+', name: 'a new one' }] : []),
        ]}
        onChoose={(g) => {
          const fresh = () => {
            for (let k = 1; ; k++) if (!groups.includes(`Group ${k}`)) return `Group ${k}`;
          };
          documents.editStage(`Group ${name}`, (d) => groupProp(d, { id, group: g === '' ? null : g === '+' ? fresh() : g }));
        }}
      />
      {group !== null && (
        <SwitchRow
          label="Moves with its group"
          on={together}
          onChange={(on) => {
            letGroupsGo(on);
            setTogether(on);
          }}
        />
      )}
    </>
  );
}

function PropSettings({ prop }: { prop: Prop }) {
  const session = useBench();
  const { documents } = session;
  const { id, name, locked, visible, seed } = prop;
  const bare = useBenchState((s) => !whoWears(s.stage, s.effect).some((w) => w.prop === id));
  const change = (label: string, recipe: (p: Prop) => void, merge: string | null = null) =>
    documents.editStage(`${label} ${name}`, (d) => recipe(propOf(d, id)), merge);
  return (
    <section aria-label={`Settings of ${name}`} onKeyDown={ownKeys}>
      <h2 className="head mb-1 truncate text-[14px] leading-5" title={name}>
        {name}
      </h2>
      <Wears prop={prop} />
      <Shares prop={prop} />
      {bare && <Surface prop={prop} />}
      <SeedRow
        label={`${name} seed`}
        seed={seed}
        onChange={(v) => change('Seed of', (p) => void (p.seed = v), `seed ${id}`)}
        onDone={() => documents.endGesture()}
      />
      <Grouping prop={prop} />
      <SwitchRow label="Seen" on={visible} onChange={(on) => change(on ? 'Show' : 'Hide', (p) => void (p.visible = on))} />
      <SwitchRow label="Locked" on={locked} onChange={(on) => change(on ? 'Lock' : 'Unlock', (p) => void (p.locked = on))} />
      <div className="mt-2 grid grid-cols-2 gap-2">
        <button className="button col-span-2" disabled={!visible} onClick={() => void session.painting.begin(id)}>
          <Paintbrush size={14} strokeWidth={1.5} aria-hidden />
          Paint its vertices
        </button>
        <button className="button" onClick={() => duplicate(session, id)}>
          <Copy size={14} strokeWidth={1.5} aria-hidden />
          Duplicate
        </button>
        <button
          className="button"
          title="A copy that shares what it is, its paint and what it wears: changed on one, changed on all"
          onClick={() => duplicate(session, id, true)}
        >
          <Link2 size={14} strokeWidth={1.5} aria-hidden />
          Shared copy
        </button>
        <button className="button" title="A copy on the other side of x = 0" onClick={() => mirror(session, id)}>
          <FlipHorizontal2 size={14} strokeWidth={1.5} aria-hidden />
          Mirrored
        </button>
        <Scatter prop={prop} />
        <button className="button col-span-2" onClick={() => documents.editStage(`Delete ${name}`, (d) => deleteProp(d, { id }))}>
          <Trash2 size={14} strokeWidth={1.5} aria-hidden />
          Delete
        </button>
      </div>
    </section>
  );
}
