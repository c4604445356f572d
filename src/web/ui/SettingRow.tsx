/** A named number with its slider and field, in panels. */
import { Switch } from 'radix-ui';
import { NumberField } from './NumberField.js';
import { Select } from './Select.js';
import { Slider } from './Slider.js';

interface Props {
  readonly label: string;
  readonly value: number;
  readonly unit?: string;
  /** The slider's range, which widens when a number beyond it is typed. */
  readonly soft: readonly [number, number];
  readonly hard: readonly [number, number];
  readonly step?: number;
  readonly onChange: (value: number) => void;
  readonly onDone: () => void;
}

export function SettingRow({ label, value, unit = '', soft, hard, step = 0.05, onChange, onDone }: Props) {
  return (
    <div className="grid h-8 grid-cols-[104px_1fr_64px] items-center gap-2">
      <span>{label}</span>
      <Slider label={label} value={value} low={soft[0]} high={soft[1]} onChange={onChange} onDone={onDone} />
      <NumberField
        label={`${label} value`}
        value={value}
        unit={unit}
        step={step}
        low={hard[0]}
        high={hard[1]}
        width={64}
        onChange={onChange}
        onDone={onDone}
      />
    </div>
  );
}

export function SwitchRow({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <div className="flex h-8 items-center justify-between">
      <span>{label}</span>
      <Switch.Root className="button min-h-6" aria-label={label} checked={on} onCheckedChange={onChange}>
        {on ? 'on' : 'off'}
      </Switch.Root>
    </div>
  );
}

/** A named choice. @param label its own name, where the row's does not say enough */
export function SelectRow({
  name,
  label = name,
  ...select
}: { name: string; label?: string } & Omit<Parameters<typeof Select>[0], 'className' | 'label'>) {
  return (
    <div className="flex h-8 items-center justify-between gap-2">
      <span>{name}</span>
      <Select {...select} label={label} className="button min-w-0 [&>span]:truncate" />
    </div>
  );
}

/** A named whole number that is one of many. */
export function SeedRow({
  label,
  seed,
  onChange,
  onDone,
}: {
  label: string;
  seed: number;
  onChange: (seed: number) => void;
  onDone: () => void;
}) {
  return (
    <div className="flex h-8 items-center justify-between">
      <span>Seed</span>
      <NumberField label={label} value={seed} step={1} width={64} onChange={(v) => onChange(Math.round(v))} onDone={onDone} />
    </div>
  );
}
