/** What differs between two versions of a document, in words, for an artist to choose between them. */
import { findOperator } from '../operators/catalogue.js';
import { isColour, isLink, strandsOf, type Effect, type Input } from './schema.js';

const number = (x: number) => String(Number(x.toPrecision(4)));
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** An input as a few words: `0.4`, `Hue`, `rgb 1 0.1 0.4 x 12`. */
function inputText(effect: Effect, input: Input | undefined): string {
  if (!input) return 'its default';
  if (isLink(input)) {
    const name = strandsOf(effect).find((s) => s.id === input.from)?.name ?? input.from;
    return `${name}${input.part ? `.${input.part}` : ''}`;
  }
  const { value } = input;
  if (typeof value === 'number') return number(value);
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  if (Array.isArray(value)) return value.map(number).join(' ');
  if (isColour(value))
    return `rgb ${value.rgb.map(number).join(' ')} ${value.unit === 'stops' ? `+${number(value.intensity)} stops` : `x ${number(value.intensity)}`}`;
  return 'another value';
}

/** @param mine, theirs two versions of one effect @returns a sentence a difference, those of the sheet first; none when they are alike */
export function effectDifferences(mine: Effect, theirs: Effect): string[] {
  const found: string[] = [];
  if (mine.name !== theirs.name) found.push(`Name: ${mine.name} here, ${theirs.name} there.`);
  const [here, there] = [strandsOf(mine), strandsOf(theirs)];
  const others = new Map(there.map((s) => [s.id, s]));
  for (const s of here) {
    const other = others.get(s.id);
    if (!other) {
      found.push(`${s.name} is only here.`);
      continue;
    }
    if (s.name !== other.name) found.push(`${s.name} is called ${other.name} there.`);
    if (s.op !== other.op)
      found.push(`${s.name} is ${findOperator(s.op)?.label ?? s.op} here, ${findOperator(other.op)?.label ?? other.op} there.`);
    if ((s.bypassed ?? false) !== (other.bypassed ?? false))
      found.push(`${s.name} is bypassed ${s.bypassed ? 'here' : 'there'} only.`);
    for (const input of new Set([...Object.keys(s.inputs ?? {}), ...Object.keys(other.inputs ?? {})])) {
      const [a, b] = [s.inputs?.[input], other.inputs?.[input]];
      if (!same(a, b)) found.push(`${s.name}, ${input}: ${inputText(mine, a)} here, ${inputText(theirs, b)} there.`);
    }
    for (const option of new Set([...Object.keys(s.options ?? {}), ...Object.keys(other.options ?? {})])) {
      const [a, b] = [s.options?.[option], other.options?.[option]];
      if (a !== b) found.push(`${s.name}, ${option}: ${a ?? 'its default'} here, ${b ?? 'its default'} there.`);
    }
  }
  const known = new Set(here.map((s) => s.id));
  for (const s of there) if (!known.has(s.id)) found.push(`${s.name} is only there.`);
  const order = (list: typeof here, common: ReadonlySet<string>) => list.map((s) => s.id).filter((id) => common.has(id));
  const common = new Set(here.map((s) => s.id).filter((id) => others.has(id)));
  if (!same(order(here, common), order(there, common))) found.push('The strands stand in another order.');
  return [...found, ...rest(mine, theirs, ['id', 'name', 'strands', 'format', 'version'])];
}

const WORDS: Readonly<Record<string, string>> = {
  outputs: 'The outputs',
  finish: 'The finish',
  dials: 'The dials',
  variants: 'The variants',
  cues: 'The cues',
  sections: 'The sections',
  tags: 'The tags',
  note: 'The note',
  loop: 'The loop',
  home: 'The home stage',
  props: 'The props',
  lights: 'The lights',
  surroundings: 'The surroundings',
  ground: 'The ground',
  viewpoints: 'The viewpoints',
  optics: 'The optics',
  spill: 'The spill',
};

const PLURAL = new Set([
  'outputs',
  'dials',
  'variants',
  'cues',
  'sections',
  'tags',
  'props',
  'lights',
  'surroundings',
  'viewpoints',
  'optics',
]);

function rest(mine: object, theirs: object, told: readonly string[]): string[] {
  const fields = new Set([...Object.keys(mine), ...Object.keys(theirs)].filter((k) => !told.includes(k)));
  const at = (of: object, field: string) => (of as Record<string, unknown>)[field];
  return [...fields]
    .filter((f) => !same(at(mine, f), at(theirs, f)))
    .map((f) => `${WORDS[f] ?? f[0]!.toUpperCase() + f.slice(1)} ${PLURAL.has(f) ? 'differ' : 'differs'}.`);
}

/** The same of two versions of a stage, by its parts. */
export const stageDifferences = (mine: { name: string }, theirs: { name: string }): string[] => [
  ...(mine.name === theirs.name ? [] : [`Name: ${mine.name} here, ${theirs.name} there.`]),
  ...rest(mine, theirs, ['id', 'name', 'format', 'version']),
];
