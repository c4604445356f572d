/** The lights of a stage: their numbers, what drives them; a new one, one less. */
import { Activity, ChevronDown, ChevronRight, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { LIGHTS, deleteLight } from '../../core/scene/edits.js';
import type { Light } from '../../core/scene/stage.js';
import { driveBy, driverOf, follow, leaderOf, leaders, newLight } from '../../session/lighting.js';
import { MenuContent } from '../ui/Menu.js';
import { ColourButton } from '../ui/ColourEditor.js';
import { NumberField } from '../ui/NumberField.js';
import { Select } from '../ui/Select.js';
import { SeedRow, SelectRow, SettingRow, SwitchRow } from '../ui/SettingRow.js';
import { Slider } from '../ui/Slider.js';
import { useBench, useBenchState } from '../context.js';
import { useStage } from './useStage.js';

/** @param first which is opened at first */
export function LightsOfStage({ first = null }: { first?: string | null }) {
  const { stage } = useStage();
  // One at a time is opened: its settings are many.
  const [opened, setOpened] = useState(first);
  return (
    <section aria-label="Lights">
      <div className="flex h-8 items-center justify-between border-t border-line">
        <h3 className="head text-[13px]">Lights</h3>
        <AddLight onAdded={setOpened} />
      </div>
      {stage.lights.map((light) => (
        <LightRows key={light.id} light={light} open={opened === light.id} onOpen={(on) => setOpened(on ? light.id : null)} />
      ))}
    </section>
  );
}

function AddLight({ onAdded }: { onAdded: (id: string) => void }) {
  const session = useBench();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="plain gap-1 px-1" aria-label="Add a light">
          <Plus size={14} strokeWidth={1.5} aria-hidden />
          Add
        </button>
      </DropdownMenu.Trigger>
      <MenuContent align="end">
        {LIGHTS.map(({ kind, name }) => (
          <DropdownMenu.Item
            key={kind}
            className="menu-item"
            onSelect={() => {
              const id = newLight(session, kind);
              if (id !== null) onAdded(id);
            }}
          >
            {name}
          </DropdownMenu.Item>
        ))}
      </MenuContent>
    </DropdownMenu.Root>
  );
}

function LightRows({ light, open, onOpen }: { light: Light; open: boolean; onOpen: (on: boolean) => void }) {
  const session = useBench();
  const { id, name, intensity, rgb, kind, shadow, cone, drivenBy } = light;
  const { change, done } = useStage();
  const set = (what: string, to: Partial<Light>) =>
    change(
      what,
      (d) =>
        void Object.assign(
          d.lights.find((l) => l.id === id)!,
          to,
        ),
    );
  const Fold = open ? ChevronDown : ChevronRight;
  const brighten = (v: number) => set(name, { intensity: v });
  return (
    <div data-light={id} className={open ? '-mx-2 rounded-sm bg-raised px-2' : ''}>
      <div className="grid h-8 grid-cols-[104px_1fr_64px_24px] items-center gap-2">
        <button
          className="plain -ml-1 min-w-0 justify-start gap-0.5 px-0"
          aria-expanded={open}
          aria-label={`${name}: settings${drivenBy ? ', follows an effect' : ''}`}
          title={drivenBy ? `${name} follows an effect` : name}
          onClick={() => onOpen(!open)}
        >
          <Fold size={12} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />
          <span className="truncate text-ink">{name}</span>
          {drivenBy && <Activity size={12} strokeWidth={1.5} className="shrink-0 text-muted" aria-hidden />}
        </button>
        <Slider label={name} value={intensity} low={0} high={4} onChange={brighten} onDone={done} />
        <NumberField
          label={`${name} value`}
          value={intensity}
          unit="x"
          step={0.05}
          low={0}
          high={1e6}
          width={64}
          onChange={brighten}
          onDone={done}
        />
        <ColourButton
          label={`${name} colour`}
          colour={{ rgb: [...rgb], intensity: 1, unit: 'factor' }}
          onChange={(c) => set(`${name} colour`, { rgb: c.rgb.map((v) => v * c.intensity) as Light['rgb'] })}
          onDone={() => session.documents.endGesture()}
        />
      </div>
      {open && (
        <div className="pl-3">
          {kind === 'spot' && (
            <SettingRow
              label="Cone"
              value={cone?.angle ?? 30}
              unit="°"
              soft={[5, 60]}
              hard={[1, 85]}
              step={1}
              onChange={(angle) => set(`${name} cone`, { cone: { soft: cone?.soft ?? 0.3, angle } })}
              onDone={done}
            />
          )}
          {kind !== 'point' && <SwitchRow label="Casts shadows" on={shadow} onChange={(on) => set('Shadows', { shadow: on })} />}
          <Driven light={light} />
        </div>
      )}
    </div>
  );
}

/** What drives a light, and taking the light away. */
function Driven({ light }: { light: Light }) {
  const session = useBench();
  const { change } = useStage();
  // What it may follow is of these: who wears what, and by what names.
  useBenchState((s) => s.effect);
  useBenchState((s) => s.program);
  const { drivenBy: by, name, id } = light;
  const all = leaders(session);
  const now = by && leaderOf(all, by);
  const driver = by && driverOf(session, by);
  const OWN = ' own';
  const choices = [
    { id: '', name: 'Nothing' },
    ...all.map((l) => ({ id: l.id, name: l.name })),
    ...(by && !now ? [{ id: OWN, name: driver?.effect.name ?? 'An effect that is gone' }] : []),
  ];
  return (
    <>
      <div className="flex h-8 items-center justify-between gap-2">
        <span className="shrink-0">Follows</span>
        <span className="flex min-w-0 items-center gap-1">
          <Select
            label={`${name} follows`}
            className="button min-w-0 [&>span]:truncate"
            value={by ? (now?.id ?? OWN) : ''}
            choices={choices}
            onChoose={(to) => to !== OWN && follow(session, light, all.find((l) => l.id === to) ?? null)}
          />
          <button
            className="plain"
            aria-label={`Delete ${name}`}
            title="Delete"
            onClick={() => change(`Delete ${name}`, (d) => deleteLight(d, { id }))}
          >
            <Trash2 size={14} strokeWidth={1.5} aria-hidden />
          </button>
        </span>
      </div>
      {by && driver && <DriverRows light={light} by={by} {...driver} />}
    </>
  );
}

/** Which strand, variant and seed of the effect it is, and how strongly. */
function DriverRows({
  light,
  by,
  effect,
  strands,
}: { light: Light; by: NonNullable<Light['drivenBy']> } & NonNullable<ReturnType<typeof driverOf>>) {
  const session = useBench();
  const done = () => session.documents.endGesture();
  const WHOLE = ' whole';
  const whole = effect.kind === 'light' ? [{ id: WHOLE, name: 'Colour and intensity' }] : [];
  const gone = by.strand !== null && !strands.some((s) => s.id === by.strand);
  return (
    <div className="border-l border-edge pl-2.5">
      <SelectRow
        name="Gives"
        label={`${light.name} strand`}
        value={by.strand ?? WHOLE}
        choices={[
          ...whole,
          ...strands.map((s) => ({ id: s.id, name: s.name })),
          ...(gone ? [{ id: by.strand!, name: 'a strand that is gone' }] : []),
        ]}
        onChoose={(to) => driveBy(session, light, { strand: to === WHOLE ? null : to })}
      />
      {(effect.variants.length > 0 || by.variant !== null) && (
        <SelectRow
          name="Variant"
          label={`${light.name} variant`}
          value={by.variant ?? ''}
          choices={[{ id: '', name: 'Base' }, ...effect.variants.map((v) => ({ id: v.id, name: v.name }))]}
          onChoose={(to) => driveBy(session, light, { variant: to === '' ? null : to })}
        />
      )}
      <SettingRow
        label="Times"
        value={by.scale}
        unit="x"
        soft={[0, 4]}
        hard={[0, 1e6]}
        onChange={(scale) => driveBy(session, light, { scale })}
        onDone={done}
      />
      <SeedRow
        label={`${light.name} seed`}
        seed={by.seed ?? 0}
        onChange={(seed) => driveBy(session, light, { seed })}
        onDone={done}
      />
    </div>
  );
}
