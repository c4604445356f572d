/** `wispen operators` and `wispen schema`. */
import { z } from 'zod';
import { OPERATORS } from '../core/operators/catalogue.js';
import { effectSchema } from '../core/effect/schema.js';
import { stageSchema } from '../core/scene/stage.js';

export function listOperators(json: boolean): number {
  if (json) {
    const records = OPERATORS.map(({ id, label, family, summary, inputs, options, outputs, source }) => ({
      id,
      label,
      family,
      summary,
      inputs: Object.entries(inputs).map(([name, i]) => ({ id: name, ...i })),
      options: Object.entries(options).map(([name, o]) => ({ id: name, ...o })),
      outputs: outputs.map((o) => ({ id: o.id, kind: typeof o.kind === 'function' ? 'by its inputs' : o.kind, note: o.note })),
      source: source ?? null,
    }));
    console.log(JSON.stringify(records, null, 2));
    return 0;
  }
  for (const o of OPERATORS) console.log(`${o.id.padEnd(12)} ${o.family.padEnd(16)} ${o.summary}`);
  return 0;
}

export function printSchema(): number {
  console.log(
    JSON.stringify(
      {
        'wispen-effect': z.toJSONSchema(effectSchema, { reused: 'ref' }),
        'wispen-stage': z.toJSONSchema(stageSchema, { reused: 'ref' }),
      },
      null,
      2,
    ),
  );
  return 0;
}
