/** What is known of a strand's operation: its record, or for a use of a motif what that says of its inputs and outputs. */
import { operatorOf } from '../operators/catalogue.js';
import { inputLabel, inputRecord, type InputRecord, type OperatorRecord, type OutputRecord } from '../operators/record.js';
import { MOTIF, inputsOf, motifOf, outputsOf, restOf } from './motifs.js';
import { isColour, strandsOf, type Effect, type Link, type Motif, type MotifInput, type Strand, type Value } from './schema.js';

const components = (value: Value): number | readonly number[] =>
  isColour(value) ? value.rgb : Array.isArray(value) ? value : typeof value === 'number' ? value : 0;

function inputOf(input: MotifInput): InputRecord {
  const { kind, name, soft = [0, 1], unit } = input;
  return {
    kind,
    label: name,
    default: components(restOf(input)),
    soft,
    ...(unit ? { unit: unit as NonNullable<InputRecord['unit']> } : {}),
    ...(kind === 'rgb' ? { literal: 'colour' } : kind === '1' ? {} : { literal: 'vector' }),
    note: name,
  };
}

const records = new WeakMap<Motif, OperatorRecord>();

/** What a use of a motif has, as an operation has it: its inputs are by their places, `in1`. */
export function recordOfMotif(motif: Motif): OperatorRecord {
  let record = records.get(motif);
  if (!record) {
    const outputs = [...outputsOf(motif)].map(([id, { name, kind }]): OutputRecord => ({ id, kind, label: name, note: name }));
    record = {
      ...operatorOf(MOTIF),
      summary: motif.note ?? `${motif.strands.length} strands, used as one.`,
      inputs: Object.fromEntries([...inputsOf(motif)].map(([place, input]) => [place, inputOf(input)])),
      outputs: outputs.length > 0 ? outputs : operatorOf(MOTIF).outputs.slice(0, 1),
    };
    records.set(motif, record);
  }
  return record;
}

export function recordOf(effect: Pick<Effect, 'motifs'>, strand: Pick<Strand, 'op' | 'inputs'>): OperatorRecord {
  const motif = motifOf(effect, strand);
  return motif ? recordOfMotif(motif) : operatorOf(strand.op);
}

/** What an input of a strand is called on screen. */
export const labelOfInput = (effect: Pick<Effect, 'motifs'>, strand: Pick<Strand, 'op' | 'inputs'>, name: string): string =>
  inputRecord(recordOf(effect, strand), name)?.label ?? inputLabel(name);

/** What an output of a strand is called on screen. */
export const labelOfOutput = (effect: Pick<Effect, 'motifs'>, strand: Pick<Strand, 'op' | 'inputs'>, port: string): string =>
  recordOf(effect, strand).outputs.find((o) => o.id === port)?.label ?? port;

/** What a link's output is called, where it has one of its own. */
export function portLabel(effect: Effect, { from, port = '' }: Link): string {
  const source = strandsOf(effect).find((s) => s.id === from);
  return source ? labelOfOutput(effect, source, port) : port;
}
