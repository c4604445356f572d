/** Exposure, bloom and tone curve; they belong to the stage. */
import type { Optics } from '../../core/formats/stage.js';
import { TONE_CURVES } from '../../core/optics/tone.js';
import { NumberField } from '../ui/NumberField.js';
import { Select } from '../ui/Select.js';
import { Slider } from '../ui/Slider.js';
import { useBench, useBenchState } from './context.js';

const TONE_NAMES: Record<Optics['tone'], string> = { 'khronos-neutral': 'Khronos neutral', linear: 'Linear, clipped' };

type BloomNumber = 'threshold' | 'intensity' | 'knee' | 'spread';
const BLOOM: readonly { key: BloomNumber; label: string; unit: string; low: number; high: number; hard: number }[] = [
  { key: 'threshold', label: 'Bloom threshold', unit: '', low: 0, high: 4, hard: 1000 },
  { key: 'intensity', label: 'Bloom intensity', unit: 'x', low: 0, high: 4, hard: 100 },
  { key: 'knee', label: 'Bloom knee', unit: '', low: 0, high: 1, hard: 1 },
  { key: 'spread', label: 'Bloom spread', unit: '', low: 0.001, high: 1, hard: 1 },
];

export function OpticsPanel() {
  const session = useBench();
  const optics = useBenchState((s) => s.stage.optics);
  const stage = useBenchState((s) => s.stage.name);
  const done = () => session.endGesture();
  const change = (label: string, recipe: (o: Optics) => void) =>
    session.editStage(label, (draft) => recipe(draft.optics), `optics ${label}`);
  const row = (
    label: string,
    value: number,
    unit: string,
    low: number,
    high: number,
    hardLow: number,
    hardHigh: number,
    set: (o: Optics, v: number) => void,
  ) => (
    <div key={label} className="grid h-8 grid-cols-[104px_1fr_64px] items-center gap-2">
      <span>{label}</span>
      <Slider label={label} value={value} low={low} high={high} onChange={(v) => change(label, (o) => set(o, v))} onDone={done} />
      <NumberField
        label={`${label} value`}
        value={value}
        unit={unit}
        step={0.05}
        low={hardLow}
        high={hardHigh}
        width={64}
        onChange={(v) => change(label, (o) => set(o, v))}
        onDone={done}
      />
    </div>
  );
  return (
    <div onKeyDown={(e) => e.stopPropagation()}>
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="head text-[14px] leading-5">Optics</h2>
        <span className="chip border-line px-2 text-muted">
          belongs to the stage <span className="ml-1 text-ink">{stage}</span>
        </span>
      </div>
      {row('Exposure', optics.exposure, 'EV', -6, 6, -16, 16, (o, v) => (o.exposure = v))}
      <div className="flex h-8 items-center justify-between">
        <span>Bloom</span>
        <button
          className="button min-h-6"
          role="switch"
          aria-checked={optics.bloom.on}
          aria-label="Bloom"
          onClick={() => session.editStage('Bloom on or off', (d) => void (d.optics.bloom.on = !d.optics.bloom.on))}
        >
          {optics.bloom.on ? 'on' : 'off'}
        </button>
      </div>
      {BLOOM.map(({ key, label, unit, low, high, hard }) =>
        row(label, optics.bloom[key], unit, low, high, low, hard, (o, v) => (o.bloom[key] = v)),
      )}
      <div className="flex h-8 items-center justify-between">
        <span>Tone curve</span>
        <Select
          label="Tone curve"
          value={optics.tone}
          choices={TONE_CURVES.map((id) => ({ id, name: TONE_NAMES[id] }))}
          onChoose={(id) => session.editStage('Tone curve', (d) => void (d.optics.tone = id as Optics['tone']))}
        />
      </div>
    </div>
  );
}
