/** Three numbers along x, y and z, named together. */
import { NumberField } from './NumberField.js';

export function Three({
  label,
  name,
  values,
  low = -1e9,
  axes,
  step = 0.05,
  onChange,
  onDone,
}: {
  label: string;
  name: string;
  values: readonly [number, number, number];
  low?: number;
  /** What each of them is called, and shown with: x, y and z where nothing is said, without a word. */
  axes?: readonly [string, string, string];
  step?: number;
  onChange: (values: [number, number, number]) => void;
  onDone: () => void;
}) {
  return (
    <div className="flex h-8 items-center justify-between gap-1.5">
      <span className="grow">{name}</span>
      {(axes ?? (['x', 'y', 'z'] as const)).map((axis, k) => (
        <NumberField
          key={axis}
          label={`${label} ${axis}`}
          value={values[k]!}
          step={step}
          low={low}
          width={axes ? 56 : 52}
          {...(axes ? { unit: axis } : {})}
          onChange={(v) => onChange(values.map((was, at) => (at === k ? v : was)) as [number, number, number])}
          onDone={onDone}
        />
      ))}
    </div>
  );
}
