/** A named number with its slider and field, in panels. */
import { Switch } from 'radix-ui';
import { NumberField } from './NumberField.js';
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
