/** Exposure, bloom and tone curve; they belong to the stage. */
import type { Optics } from '../../core/scene/stage.js';
import { TONE_CURVES } from '../../core/optics/tone.js';
import { Select } from '../ui/Select.js';
import { SettingRow, SwitchRow } from '../ui/SettingRow.js';
import { Three } from '../ui/Three.js';
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

interface RowsProps {
  readonly optics: Optics;
  /** What comes before the names of its numbers, where they are not the stage's own. */
  readonly of?: string;
  readonly onChange: (label: string, recipe: (o: Optics) => void) => void;
  readonly onDone: () => void;
}

/** Exposure, bloom and tone curve, of the stage or of a zone. */
export function OpticsRows({ optics, of = '', onChange: change, onDone: done }: RowsProps) {
  return (
    <>
      <SettingRow
        label={`${of}Exposure`}
        value={optics.exposure}
        unit="EV"
        soft={[-6, 6]}
        hard={[-16, 16]}
        onChange={(v) => change('Exposure', (o) => void (o.exposure = v))}
        onDone={done}
      />
      <SwitchRow
        label={`${of}Bloom`}
        on={optics.bloom.on}
        onChange={(on) => change('Bloom on or off', (o) => void (o.bloom.on = on))}
      />
      {BLOOM.map(({ key, label, unit, low, high, hard }) => (
        <SettingRow
          key={key}
          label={`${of}${label}`}
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
          label={`${of}Tone curve`}
          value={optics.tone}
          choices={TONE_CURVES.map((id) => ({ id, name: TONE_NAMES[id] }))}
          onChoose={(id) => change('Tone curve', (o) => void (o.tone = id as Optics['tone']))}
        />
      </div>
      <GradeRows optics={optics} of={of} onChange={change} onDone={done} />
    </>
  );
}

const GRADE: readonly { key: 'slope' | 'offset' | 'power'; label: string; low: number; title: string }[] = [
  { key: 'slope', label: 'Slope', low: 0, title: 'What each channel is multiplied by' },
  { key: 'offset', label: 'Offset', low: -4, title: 'What is added to each channel' },
  { key: 'power', label: 'Power', low: 0.05, title: 'The power of each channel: below 1 is brighter' },
];

/** The picture coloured at the very end, by slope, offset, power and saturation. */
function GradeRows({ optics, of = '', onChange: change, onDone: done }: RowsProps) {
  const { grade } = optics;
  const turn = (label: string, to: Partial<NonNullable<Optics['grade']>>) =>
    change(label, (o) => void (o.grade = { ...newGrade(), ...o.grade, ...to }));
  return (
    <>
      <SwitchRow
        label={`${of}Grade`}
        on={grade !== undefined}
        onChange={(on) =>
          change(on ? 'Grade' : 'No grade', (o) => {
            if (on) o.grade = newGrade();
            else delete o.grade;
          })
        }
      />
      {grade && (
        <>
          {GRADE.map(({ key, label, low, title }) => (
            <div key={key} title={title}>
              <Three
                label={`${of}${label}`}
                name={label}
                axes={['r', 'g', 'b']}
                values={grade[key]}
                low={low}
                step={0.01}
                onChange={(values) => turn(label, { [key]: values })}
                onDone={done}
              />
            </div>
          ))}
          <SettingRow
            label={`${of}Saturation`}
            value={grade.saturation}
            soft={[0, 2]}
            hard={[0, 4]}
            onChange={(saturation) => turn('Saturation', { saturation })}
            onDone={done}
          />
        </>
      )}
    </>
  );
}

const newGrade = (): NonNullable<Optics['grade']> => ({ slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 });

export function OpticsPanel() {
  const { documents } = useBench();
  const optics = useBenchState((s) => s.stage.optics);
  const stage = useBenchState((s) => s.stage.name);
  return (
    <div onKeyDown={ownKeys}>
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="head text-[14px] leading-5">Optics</h2>
        <span className="chip min-w-0 border-line px-2 text-muted">
          <span className="shrink-0">belongs to the stage</span> <span className="ml-1 truncate text-ink">{stage}</span>
        </span>
      </div>
      <OpticsRows
        optics={optics}
        onChange={(label, recipe) => documents.editStage(label, (draft) => recipe(draft.optics), `optics ${label}`)}
        onDone={() => documents.endGesture()}
      />
    </div>
  );
}
