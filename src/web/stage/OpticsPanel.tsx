/** Exposure, bloom and tone curve; they belong to the stage. */
import type { Optics } from '../../core/scene/stage.js';
import { TONE_CURVES } from '../../core/optics/tone.js';
import { Select } from '../ui/Select.js';
import { SettingRow, SwitchRow } from '../ui/SettingRow.js';
import { useBench, useBenchState } from '../context.js';
import { ownKeys } from '../ui/keys.js';

const TONE_NAMES: Record<Optics['tone'], string> = {
  'hue-kept': 'Hue kept',
  'khronos-neutral': 'Khronos neutral',
  aces: 'ACES fit',
  linear: 'Linear, clipped',
};

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
  const done = () => session.documents.endGesture();
  const change = (label: string, recipe: (o: Optics) => void) =>
    session.documents.editStage(label, (draft) => recipe(draft.optics), `optics ${label}`);
  return (
    <div onKeyDown={ownKeys}>
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="head text-[14px] leading-5">Optics</h2>
        <span className="chip border-line px-2 text-muted">
          belongs to the stage <span className="ml-1 text-ink">{stage}</span>
        </span>
      </div>
      <SettingRow
        label="Exposure"
        value={optics.exposure}
        unit="EV"
        soft={[-6, 6]}
        hard={[-16, 16]}
        onChange={(v) => change('Exposure', (o) => void (o.exposure = v))}
        onDone={done}
      />
      <SwitchRow
        label="Bloom"
        on={optics.bloom.on}
        onChange={(on) => session.documents.editStage('Bloom on or off', (d) => void (d.optics.bloom.on = on))}
      />
      {BLOOM.map(({ key, label, unit, low, high, hard }) => (
        <SettingRow
          key={key}
          label={label}
          value={optics.bloom[key]}
          unit={unit}
          soft={[low, high]}
          hard={[low, hard]}
          onChange={(v) => change(label, (o) => void (o.bloom[key] = v))}
          onDone={done}
        />
      ))}
      <div className="flex h-8 items-center justify-between">
        <span>Tone curve</span>
        <Select
          label="Tone curve"
          value={optics.tone}
          choices={TONE_CURVES.map((id) => ({ id, name: TONE_NAMES[id] }))}
          onChoose={(id) => session.documents.editStage('Tone curve', (d) => void (d.optics.tone = id as Optics['tone']))}
        />
      </div>
    </div>
  );
}
