/** Numbers of a mote field, each with its slider and field. */
import { changeMotes } from '../../core/scene/edits.js';
import type { MoteField } from '../../core/scene/motes.js';
import { SettingRow } from '../ui/SettingRow.js';
import { useStage } from './useStage.js';

/** Sets a field's numbers; the steps of one drag are one. */
export function useField({ id, name }: MoteField) {
  const { change, done } = useStage();
  const set = (what: string, to: Partial<MoteField>) => change(`${name}: ${what}`, (d) => changeMotes(d, { id, to }));
  return { set, done };
}

/** A number of a field: where it is, how it is set, how far a slider goes and how far it may. */
export interface NumberOf {
  readonly label: string;
  readonly unit?: string;
  readonly step?: number;
  readonly soft: readonly [number, number];
  readonly hard: readonly [number, number];
  readonly of: (field: MoteField) => number;
  readonly to: (v: number, field: MoteField) => Partial<MoteField>;
}
export function Numbers({ field, numbers }: { field: MoteField; numbers: readonly NumberOf[] }) {
  const { set, done } = useField(field);
  return numbers.map(({ label, of, to, step = 0.01, ...more }) => (
    <SettingRow
      key={label}
      {...{ label, step, ...more }}
      value={of(field)}
      onChange={(v) => set(label.toLowerCase(), to(v, field))}
      onDone={done}
    />
  ));
}
