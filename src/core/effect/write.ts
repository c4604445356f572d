/**
 * The canonical text of an effect: fields in the schema's order, whatever the order they were set in, so that undo gives
 * back the same bytes and equal documents are equal texts.
 */
import { sortedDeep } from '../base/sorted.js';
import { operatorOf } from '../operators/catalogue.js';
import { effectSchema, type Effect } from './schema.js';
import { OUTPUTS } from './outputs.js';

type Fields = Record<string, unknown>;

/** These fields first, in this order; then the rest as they come. */
function ordered(fields: Fields, order: readonly string[]): Fields {
  const rest = Object.keys(fields).filter((k) => !order.includes(k));
  return Object.fromEntries([...order, ...rest].filter((k) => fields[k] !== undefined).map((k) => [k, fields[k]]));
}

const INPUT_FIELDS = ['from', 'port', 'part', 'value'];
const STRAND_FIELDS = ['id', 'name', 'op', 'inputs', 'options', 'note', 'bypassed'];

function inputsInOrder(inputs: unknown, order: readonly string[]): Fields {
  const named = ordered((inputs ?? {}) as Fields, order);
  return Object.fromEntries(Object.entries(named).map(([name, input]) => [name, ordered(input as Fields, INPUT_FIELDS)]));
}

function strandInOrder(strand: Fields): Fields {
  const operator = operatorOf(String(strand.op));
  const some = (fields: Fields) => (Object.keys(fields).length > 0 ? fields : undefined);
  return ordered(
    {
      ...strand,
      inputs: some(inputsInOrder(strand.inputs, Object.keys(operator.inputs))),
      options: some(ordered((strand.options ?? {}) as Fields, Object.keys(operator.options))),
      // What says nothing is not written.
      bypassed: strand.bypassed === true ? true : undefined,
    },
    STRAND_FIELDS,
  );
}

/** Lists print one item a line, so that files read and compare well. */
export function writeEffect(effect: Effect): string {
  // Reading brings what the schema names into its order.
  const read = effectSchema.safeParse(effect);
  return writeRead(read.success ? read.data : effect);
}

/** The same of an effect as `readEffect` gave it, which is in its order already: half the work. */
export function writeRead(effect: Effect): string {
  // Records of the artist's own names are put into an order here.
  const { strands, outputs, variants, assets, extra, ...rest } = effect;
  const dialOrder = effect.dials.map((d) => d.id);
  const fields: Fields = {
    ...rest,
    assets: sortedDeep(assets),
    extra: sortedDeep(extra),
    strands: strands.map((s) => strandInOrder(s as Fields)),
    outputs: inputsInOrder(outputs, OUTPUTS[effect.kind]),
    variants: variants.map((v) => ({ ...v, values: ordered(v.values, dialOrder) })),
  };
  const lines = Object.entries(ordered(fields, Object.keys(effectSchema.shape))).map(([key, v]) => {
    if (Array.isArray(v) && v.length > 0 && typeof v[0] === 'object')
      return `  ${JSON.stringify(key)}: [\n${v.map((item) => `    ${JSON.stringify(item)}`).join(',\n')}\n  ]`;
    return `  ${JSON.stringify(key)}: ${JSON.stringify(v)}`;
  });
  return `{\n${lines.join(',\n')}\n}\n`;
}
