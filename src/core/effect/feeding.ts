/** What a new strand reads: which of its inputs a value makes sense at, and how a value of another kind is brought there. */
import { widthOfKind, type Kind } from '../base/kinds.js';
import { FORMULA, findOperator, operatorOf } from '../operators/catalogue.js';
import { inputFor, outputMeaning, type Given } from '../operators/meaning.js';
import { handedOn, isConstant, takesAs, type InputRecord, type Meaning } from '../operators/record.js';
import { BRIDGES, type Bridge } from '../operators/wraps.js';
import { addStrand, freshId, freshName, setFinish, setInput, setOutput, strandOf } from './edits.js';
import type { OutputName } from './outputs.js';
import { inputsOf } from './motifs.js';
import { BLENDED, isLink, strandsOf, type Effect, type Input, type Link, type Motif, type Strand } from './schema.js';

/** The kind of what a link brings; undefined where it is not known. */
export type KindOf = (link: Link) => Kind | undefined;

/** What a link's value means: as its strand's operation says, and through what hands its own kind on. */
function meaningOf(effect: Effect, { from, port, part }: Link): Meaning | undefined {
  const strands = new Map(strandsOf(effect).map((s) => [s.id, s]));
  let link: { from: string; port?: string | undefined; part?: string | undefined } = { from, port, part };
  for (;;) {
    // One component of a place is a height or a width, no place.
    if (link.part?.length === 1) return undefined;
    const strand = strands.get(link.from);
    const operator = strand && findOperator(strand.op);
    const output = operator?.outputs.find((o) => link.port === undefined || o.id === link.port);
    if (!strand || !operator || !output) return undefined;
    const means = outputMeaning(operator, output);
    if (means !== 'kept') return means;
    const through = worksOn(strand);
    if (!through) return undefined;
    link = through;
  }
}

/** The link that a strand works on, or the first of those that may stand for it. */
function worksOn({ op, inputs = {} }: Strand): Link | undefined {
  const operator = operatorOf(op);
  const free = Object.keys(operator.inputs).filter((name) => operator.inputs[name]!.kind === 'any');
  for (const name of [handedOn(operator), ...free]) {
    const input = name === undefined ? undefined : inputs[name];
    if (isLink(input)) return input;
  }
  return undefined;
}

/** What a link gives to whoever reads it; null where there is nothing. */
export function givenBy(effect: Effect, link: Link, kindOf: KindOf): Given | null {
  const kind = kindOf(link);
  if (kind === undefined) return null;
  return { kind, meaning: kind === 'rgb' ? 'colour' : meaningOf(effect, link) };
}

/** The input by which a new use reads a strand above: the first of its kind. @returns null where none takes it */
export function firstMotifInput(motif: Motif, kind: Kind): string | null {
  const inputs = [...inputsOf(motif)].filter(([, i]) => i.default === undefined);
  return inputs.find(([, i]) => i.kind === kind)?.[0] ?? null;
}

/** The input that a new strand reads a strand above by; null where none makes sense, so that it reads nothing. */
export function firstInputFor(effect: Effect, op: string, from: string, kindOf: KindOf): string | null {
  const given = givenBy(effect, { from }, kindOf);
  return given && inputFor(operatorOf(op), given);
}

/** A way in which something may read a strand. */
export interface Way {
  readonly link: Link;
  /** What is put between where the kinds differ. */
  readonly through?: Bridge;
  /** "by luminance", "from .xz"; empty where it is read as it is. */
  readonly text: string;
}

const PARTS: Readonly<Record<Kind, readonly string[]>> = {
  '1': [],
  '2': ['x', 'y'],
  '3': ['x', 'y', 'z'],
  '4': ['x', 'y', 'z', 'w'],
  rgb: ['r', 'g', 'b'],
};
/** Some of a value's components, for what takes fewer: coordinates along a plane, a colour without its fourth. */
const SEVERAL: Readonly<Record<string, readonly string[]>> = {
  '3 2': ['xy', 'xz'],
  'rgb 2': ['rg'],
  '4 2': ['xy'],
  '4 3': ['xyz'],
  '4 rgb': ['rgb'],
};

const kindsOf = ({ kind }: Pick<InputRecord, 'kind'>): readonly Kind[] =>
  kind === 'any' ? [] : typeof kind === 'string' ? [kind] : kind;

/** How a value of one kind is brought to what takes others: as it is, as its luminance, in part, or joined with 0; the best first. */
export function waysInto(record: Pick<InputRecord, 'kind'>, link: Link, kind: Kind): Way[] {
  if (takesAs(record, kind) !== 'no') return [{ link, text: '' }];
  // A part of a part would be another part.
  if (link.part !== undefined) return [];
  const kinds = kindsOf(record);
  const one = kinds.includes('1');
  const several = kinds.flatMap((to) => SEVERAL[`${kind} ${to}`] ?? []);
  return [
    ...(one && kind === 'rgb' ? [{ link, through: 'luminance' as const, text: 'by luminance' }] : []),
    ...(one ? PARTS[kind] : several).map((part) => ({ link: { ...link, part }, text: `from .${part}` })),
    ...(kind === '2' && kinds.some((k) => k === '3' || k === 'rgb')
      ? [{ link, through: 'join' as const, text: 'joined with 0' }]
      : []),
  ];
}

/** A way into one of a strand's inputs. */
export interface InputWay extends Way {
  readonly input: string;
}

/** How each input of a new strand may read a strand above, in the order of its inputs; what reads it as it is comes first. */
export function waysToRead(op: string, from: string, kindOf: KindOf): InputWay[] {
  const kind = kindOf({ from });
  if (kind === undefined) return [];
  const operator = operatorOf(op);
  const all = Object.entries(operator.inputs)
    // What a formula does not name is nothing to it: it begins with its first letter.
    .filter(([, record], k) => (operator === FORMULA ? k === 0 : !isConstant(record, operator)))
    .flatMap(([input, record]) =>
      waysInto(record, { from }, kind)
        .slice(0, 1)
        .map((way): InputWay => ({ ...way, input })),
    );
  return all.sort((a, b) => Number(a.text !== '') - Number(b.text !== ''));
}

/** What may read: an input of a strand, or an output of the effect. */
export type Reader = { readonly strand: string; readonly input: string } | { readonly output: OutputName };

/** Has something read a strand by a way; what has to be put between stands directly under what is read. */
export function readBy(draft: Effect, { reader, way: { link, through } }: { reader: Reader; way: Way }): void {
  const source = through ? bridged(draft, link, through) : link;
  if ('output' in reader) setOutput(draft, { name: reader.output, input: source });
  else setInput(draft, { id: reader.strand, name: reader.input, input: source });
}

/**
 * Gives an output something. An opaque surface shows nothing of an opacity: the first that it is given makes it see-through.
 * @returns whether it did
 */
export function giveOutput(draft: Effect, output: OutputName, give: (draft: Effect) => void): boolean {
  const through = output === 'opacity' && draft.outputs.opacity === undefined && draft.finish.alphaMode === 'opaque';
  give(draft);
  if (through) setFinish(draft, BLENDED);
  return through;
}

function bridged(draft: Effect, link: Link, through: Bridge): Link {
  const { op, reads, name } = BRIDGES[through];
  const id = freshId(draft, op);
  const inputs = Object.fromEntries(
    reads.map((r): [string, Input] => [
      r.input,
      'value' in r ? { value: r.value } : { ...link, ...('part' in r ? { part: r.part } : {}) },
    ]),
  );
  addStrand(draft, { id, op, name: freshName(draft, name(strandOf(draft, link.from).name)), after: link.from, inputs });
  return { from: id };
}

/** What would set right that the kinds at a strand's inputs do not go together, the best first. */
export function kindMends(
  effect: Effect,
  id: string,
  kindOf: KindOf,
): { readonly label: string; readonly reader: Reader; readonly way: Way }[] {
  const strand = strandOf(effect, id);
  const { inputs } = operatorOf(strand.op);
  const linked = Object.entries(strand.inputs ?? {}).flatMap(([input, link]) => {
    const kind = isLink(link) ? kindOf(link) : undefined;
    return isLink(link) && kind !== undefined && inputs[input] ? [{ input, link, kind, record: inputs[input] }] : [];
  });
  // Inputs that are as wide as one another are fitted to each other's kinds.
  const free = linked.filter(({ record, kind }) => record.kind === 'any' && kind !== '1');
  return linked.flatMap(({ input, link, kind, record }) => {
    const others = free.filter((f) => f.input !== input && widthOfKind(f.kind) !== widthOfKind(kind)).map((f) => f.kind);
    const wanted = record.kind === 'any' ? (kind === '1' ? [] : others) : kindsOf(record);
    return waysInto({ kind: wanted }, link, kind)
      .filter(({ text }) => text !== '' && wanted.length > 0)
      .map((way) => ({ label: mendWords(strandOf(effect, link.from).name, way), reader: { strand: id, input }, way }));
  });
}

/** "Tint by luminance", "Place from .xz" as a button says it. */
export const mendWords = (name: string, { text }: Way): string => `${name} ${text}`;
