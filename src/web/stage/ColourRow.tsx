/** A named colour of the stage. */
import { ColourButton } from '../ui/ColourEditor.js';
import { useBench } from '../context.js';

export function ColourRow({
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
