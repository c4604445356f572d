/** The catalogue as a page of Markdown: docs/operators.md, which is made from the records and never written by hand. */
import { OPERATORS } from './catalogue.js';
import { FAMILIES, type InputRecord, type OperatorRecord } from './record.js';

const kindText = (kind: InputRecord['kind']) => (Array.isArray(kind) ? kind.join(' or ') : String(kind));

function defaultText({ default: fallback, optional }: InputRecord): string {
  if (optional) return 'off';
  if (typeof fallback === 'number') return String(fallback);
  return Array.isArray(fallback) ? fallback.join(' ') : `the place's ${(fallback as { leaf: string }).leaf}`;
}

function entry(o: OperatorRecord): string {
  const inputs = Object.entries(o.inputs).map(
    ([name, i]) =>
      `| \`${name}\` | ${kindText(i.kind)} | ${defaultText(i)} | ${i.soft[0]} .. ${i.soft[1]}${i.unit ? ` ${i.unit}` : ''} | ${i.note} |`,
  );
  const options = Object.entries(o.options).map(
    ([name, p]) => `- \`${name}\`: ${p.values.map((v) => (v === p.default ? `**${v}**` : v)).join(', ')}; ${p.note}`,
  );
  const outputs = o.outputs.map((p) => `- \`${p.id}\` (${typeof p.kind === 'function' ? 'by its inputs' : p.kind}): ${p.note}`);
  return [
    `### ${o.label}`,
    '',
    `\`${o.id}\` · ${o.summary}`,
    ...(inputs.length > 0 ? ['', '| input | kind | rests on | slider | |', '| --- | --- | --- | --- | --- |', ...inputs] : []),
    ...(options.length > 0 ? ['', 'Options:', '', ...options] : []),
    '',
    'Gives:',
    '',
    ...outputs,
    ...(o.source ? ['', `Source: ${o.source}.`] : []),
    '',
  ].join('\n');
}

/** @returns the whole page */
export function handbook(): string {
  const families = FAMILIES.map((family) => ({ family, of: OPERATORS.filter((o) => o.family === family) })).filter(
    (f) => f.of.length > 0,
  );
  return [
    '# Operators',
    '',
    'Made from the catalogue by `npm run operators`; a test fails when it is stale. Kinds: 1 a number, 2 to 4 vectors, rgb a linear',
    'Rec.709 colour, any what its strand is fed. Ranges are those of sliders, which widen; a bold option is what an operator rests on.',
    '',
    ...families.flatMap(({ family, of }) => [`## ${family}`, '', ...of.map(entry)]),
  ].join('\n');
}
