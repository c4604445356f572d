/** The canonical text of an effect: fields in the schema's order, so that undo gives back the same bytes. */
import { operatorOf } from '../operators/catalogue.js';
import { effectSchema, type Effect } from './schema.js';

/** Sections print one strand a line, so that files read and compare well. */
export function writeEffect(effect: Effect): string {
  const ordered: Record<string, unknown> = {};
  for (const key of Object.keys(effectSchema.shape)) ordered[key] = effect[key as keyof Effect];
  const lines = Object.entries(ordered).map(([key, v]) => {
    if (Array.isArray(v) && v.length > 0 && typeof v[0] === 'object')
      return `  ${JSON.stringify(key)}: [\n${v.map((item) => `    ${JSON.stringify(inOrder(item))}`).join(',\n')}\n  ]`;
    return `  ${JSON.stringify(key)}: ${JSON.stringify(v)}`;
  });
  return `{\n${lines.join(',\n')}\n}\n`;
}

const STRAND_FIELDS = ['id', 'name', 'op', 'inputs', 'options', 'note', 'bypassed'];

function inOrder(item: unknown): unknown {
  if (typeof item !== 'object' || item === null || !('op' in item)) return item;
  const strand = item as Record<string, unknown>;
  const operator = operatorOf(String(strand.op));
  const within = (fields: unknown, order: readonly string[]) => {
    const given = (fields ?? {}) as Record<string, unknown>;
    const kept = order.filter((k) => given[k] !== undefined);
    return kept.length === 0 ? undefined : Object.fromEntries(kept.map((k) => [k, given[k]]));
  };
  const fields: Record<string, unknown> = {
    ...strand,
    inputs: within(strand.inputs, Object.keys(operator.inputs)),
    options: within(strand.options, Object.keys(operator.options)),
  };
  return Object.fromEntries(STRAND_FIELDS.filter((k) => fields[k] !== undefined).map((k) => [k, fields[k]]));
}
