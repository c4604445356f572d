/** Copies of the prop in hand, scattered: how many, over what, by which seed. */
import { Grip } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import type { Prop } from '../../core/scene/stage.js';
import { scatter, type Scattering } from '../../session/standing.js';
import { useBench, useBenchState } from '../context.js';
import { ownKeys } from '../ui/keys.js';
import { PopoverContent } from '../ui/PopoverContent.js';
import { SeedRow, SelectRow, SettingRow, SwitchRow } from '../ui/SettingRow.js';

const LEVEL = '-';
const FIRST: Scattering = { count: 12, seed: 1, size: [4, 4], on: null, shared: true };

export function Scatter({ prop }: { prop: Prop }) {
  const session = useBench();
  const [open, setOpen] = useState(false);
  const [how, setHow] = useState(FIRST);
  const others = useBenchState((s) => s.stage.props).filter((p) => p.id !== prop.id && p.visible);
  const set = (to: Partial<Scattering>) => setHow({ ...how, ...to });
  const size = (label: string, k: 0 | 1) => (
    <SettingRow
      label={label}
      value={how.size[k]}
      unit="m"
      soft={[0.5, 20]}
      hard={[0.01, 1000]}
      step={0.1}
      onChange={(v) => set({ size: k === 0 ? [v, how.size[1]] : [how.size[0], v] })}
      onDone={() => undefined}
    />
  );
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button className="button">
          <Grip size={14} strokeWidth={1.5} aria-hidden />
          Scatter
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label={`Scatter ${prop.name}`}
        className="w-[288px] p-4"
        align="end"
        sideOffset={6}
        onKeyDown={ownKeys}
      >
        <h2 className="head mb-1 text-[14px] leading-5">Scatter copies of {prop.name}</h2>
        <SettingRow
          label="How many"
          value={how.count}
          soft={[1, 60]}
          hard={[1, 499]}
          step={1}
          onChange={(count) => set({ count: Math.round(count) })}
          onDone={() => undefined}
        />
        <SelectRow
          name="On"
          label="Scatter on"
          value={how.on ?? LEVEL}
          choices={[{ id: LEVEL, name: 'its own level' }, ...others.map(({ id, name }) => ({ id, name }))]}
          onChoose={(on) => set({ on: on === LEVEL ? null : on })}
        />
        {how.on === null && size('Along x', 0)}
        {how.on === null && size('Along z', 1)}
        <SeedRow label="Scatter seed" seed={how.seed} onChange={(seed) => set({ seed })} onDone={() => undefined} />
        <SwitchRow label="Share one definition" on={how.shared} onChange={(shared) => set({ shared })} />
        <button
          className="button mt-2 w-full"
          onClick={() => {
            scatter(session, prop.id, how);
            setOpen(false);
          }}
        >
          Scatter {how.count}
        </button>
      </PopoverContent>
    </Popover.Root>
  );
}
