/** An example of each operator: what its picture is drawn from, and what can be put on a sheet to try it. */
import { operatorOf } from './catalogue.js';
import { FEEDS } from './pictures.js';

/** A strand of an example, as files have it. */
export interface ExampleStrand {
  readonly id: string;
  readonly name: string;
  readonly op: string;
  readonly inputs?: Readonly<Record<string, unknown>>;
  readonly options?: Readonly<Record<string, string>>;
}

/** What the examples hear: two firings, a while ago and just now, at places of the pictures' own. */
export const EXAMPLE_TRIGGERS = [
  {
    id: 't1',
    name: 'Hit',
    at: [-0.4, 0],
    places: [
      [-0.6, -0.2, 0],
      [0.9, 0.3, 0],
    ] as [number, number, number][],
    duration: 1.2,
  },
];

/** An input as a record's picture says it: `@` and a feed, and maybe its parts; anything else is a value. */
function inputOf(said: unknown): object {
  if (typeof said !== 'string' || !said.startsWith('@')) return { value: said };
  const [from, part] = said.slice(1).split('.');
  return { from, ...(part ? { part } : {}) };
}

/** Arithmetic and colour act on hills, and where there is a second input on a ramp; the rest rest on places. */
function fed(op: string): Readonly<Record<string, object>> {
  const operator = operatorOf(op);
  if (operator.picture) return Object.fromEntries(Object.entries(operator.picture).map(([name, said]) => [name, inputOf(said)]));
  if (operator.family !== 'Arithmetic' && operator.family !== 'Colour') return {};
  const free = Object.entries(operator.inputs).filter(
    ([, r]) => r.kind === 'any' || (r.kind === '1' && !r.optional && r.unit === undefined),
  );
  return Object.fromEntries(
    free.slice(0, operator.sign ? 2 : 1).map(([name], k) => [name, inputOf(k === 0 ? '@hills' : '@ramp')]),
  );
}

/** The strands of an operator's example, those it reads first; the last is the operator itself. */
export function exampleOf(op: string): readonly ExampleStrand[] {
  const shown: ExampleStrand = { id: 'shown', name: operatorOf(op).label, op, inputs: fed(op) };
  const wanted = new Set<string>();
  const want = (strand: ExampleStrand): void => {
    wanted.add(strand.id);
    for (const input of Object.values(strand.inputs ?? {})) {
      const from = (input as { from?: string }).from;
      const feed = FEEDS.find((f) => f.id === from);
      if (feed) want(feed);
    }
  };
  want(shown);
  return [...FEEDS.filter((f) => wanted.has(f.id)), shown];
}
