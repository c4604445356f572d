/** Making motifs of strands, and making them again of what those have become. */
import type { Kind } from '../base/kinds.js';
import { dialLabel, dropDials, freshId, freshName, strandOf } from './edits.js';
import type { KindOf } from './feeding.js';
import { NOTHING_HANDED, takeMotif, type AllHanded } from './motifEdits.js';
import { MOST_INPUTS, MOST_OUTPUTS, MOTIF, asItIs, inputsOf, motifOf, outputsOf, recursion } from './motifs.js';
import { inOrder } from './runs.js';
import {
  isColour,
  isLink,
  strandsOf,
  type Dial,
  type Effect,
  type Input,
  type Link,
  type Motif,
  type MotifInput,
  type Strand,
  type Value,
} from './schema.js';

/** Why strands cannot be one motif, in a sentence. */
export class NoMotif extends Error {}

/** A motif made of strands, and what a use of it is given and read as in their place. */
interface Made {
  readonly motif: Motif;
  readonly inputs: Record<string, Input>;
  /** Dials of strands within, by the input that takes them. */
  readonly dials: ReadonlyMap<string, string>;
  /** Outputs by what they give: `strand` or `strand.port`. */
  readonly outputs: ReadonlyMap<string, string>;
}

const keyOf = ({ from, port }: Link): string => (port === undefined ? from : `${from}.${port}`);

const kindOfValue = (value: Value): Kind =>
  isColour(value) ? 'rgb' : Array.isArray(value) ? (String(value.length) as Kind) : '1';

const outputNamed = (effect: Effect, source: Strand, port = 'out1'): string | undefined => {
  const motif = motifOf(effect, source);
  return motif && outputsOf(motif).get(port)?.name;
};

class Making {
  readonly ports: MotifInput[] = [];
  readonly given: Record<string, Input> = {};
  readonly dials = new Map<string, string>();
  private readonly known = new Map<string, string>();

  constructor(
    private readonly effect: Effect,
    private readonly kindOf: KindOf,
    /** Its inputs keep their places where they keep their names, and where they were handed in. */
    private readonly before: Motif | undefined,
    private readonly handed: AllHanded,
  ) {}

  private port(key: string, name: string, kind: Kind, given: Input, more: Partial<MotifInput>): Link {
    const known = this.known.get(key);
    if (known !== undefined) return { from: known };
    const taken = new Set(this.ports.map((p) => p.id));
    const names = new Set(this.ports.map((p) => p.name));
    let called = name;
    for (let k = 2; names.has(called); k++) called = `${name} ${k}`;
    const old = this.before?.inputs.find((i) => i.name === called)?.id;
    const reserved = new Set(this.before?.inputs.map((i) => i.id));
    const places = Array.from({ length: MOST_INPUTS }, (_, k) => `in${k + 1}`).filter((id) => !taken.has(id));
    const id = old !== undefined && !taken.has(old) ? old : (places.find((p) => !reserved.has(p)) ?? places[0]);
    if (id === undefined)
      throw new NoMotif(`A motif has at most ${MOST_INPUTS} inputs; these strands are given more from outside.`);
    this.ports.push({ id, name: called.slice(0, 80), kind, ...more });
    this.given[id] = given;
    this.known.set(key, id);
    return { from: id };
  }

  /** What an input of the motif handed in before it was unfolded; null for what it did not. */
  again(strand: string, name: string, input: Input): Link | null {
    const handed = this.handed.inputs.get(`${strand}.${name}`);
    const old = handed && this.before?.inputs.find((i) => i.id === handed.port);
    if (!handed || !old) return null;
    const same = JSON.stringify(handed.here) === JSON.stringify(input);
    // Another value of the same kind is still what the input is given; another part of something is not.
    if (!same && (handed.part !== undefined || isLink(handed.here) !== isLink(input))) return null;
    if (!this.ports.some((p) => p.id === old.id)) {
      this.ports.push(structuredClone(old));
      this.given[placeOf(this.before!, old.id)] = structuredClone(same ? handed.given : input);
    }
    return { from: old.id, ...(handed.part === undefined ? {} : { part: handed.part }) };
  }

  /** What stands outside is an input, named after what is read. */
  outside(link: Link): Link {
    const source = strandOf(this.effect, link.from);
    const said = outputNamed(this.effect, source, link.port) ?? link.port;
    const name = [source.name, ...(link.port === undefined ? [] : [said])].join(' ');
    const whole: Link = { from: link.from, ...(link.port === undefined ? {} : { port: link.port }) };
    const port = this.port(keyOf(link), name, this.kindOf(whole) ?? '1', whole, {});
    return { ...port, ...(link.part === undefined ? {} : { part: link.part }) };
  }

  /** What a dial turns is an input with its name and range. */
  dialled(dial: Dial, input: { readonly value: Value }): Input {
    const port = this.port(`dial ${dial.id}`, dialLabel(this.effect, dial), kindOfValue(input.value), structuredClone(input), {
      default: structuredClone(input.value),
      ...(dial.soft ? { soft: [...dial.soft] as [number, number] } : {}),
      ...(dial.unit ? { unit: dial.unit } : {}),
    });
    this.dials.set(dial.id, port.from);
    return port;
  }
}

/** Which motif is made. */
interface As {
  readonly id: string;
  readonly name: string;
  /** As it was before. */
  readonly before?: Motif;
  readonly handed?: AllHanded;
}

/** Where a use has one of a motif's inputs. */
const placeOf = (motif: Motif, id: string): string => [...inputsOf(motif)].find(([, i]) => i.id === id)![0];

/** What strands would be as a motif. @throws NoMotif */
function making(effect: Effect, ids: readonly string[], kindOf: KindOf, as: As): Made {
  const inside = new Set(ids);
  const strands = ids.map((id) => structuredClone(strandOf(effect, id)));
  const parts = new Making(effect, kindOf, as.before, as.handed ?? NOTHING_HANDED);
  for (const strand of strands)
    for (const [name, input] of Object.entries(strand.inputs ?? {})) {
      if (!input || (isLink(input) && inside.has(input.from))) continue;
      const dial = effect.dials.find((d) => d.strand === strand.id && d.input === name);
      const again = parts.again(strand.id, name, input);
      if (again) {
        strand.inputs![name] = again;
        if (dial) parts.dials.set(dial.id, placeOf(as.before!, again.from));
      } else if (isLink(input)) strand.inputs![name] = parts.outside(input);
      else if (dial) strand.inputs![name] = parts.dialled(dial, input);
    }
  const read: Link[] = [];
  const seen = (input: Input | undefined) => void (isLink(input) && inside.has(input.from) && read.push(input));
  for (const s of strandsOf(effect)) if (!inside.has(s.id)) Object.values(s.inputs ?? {}).forEach(seen);
  Object.values(effect.outputs).forEach(seen);
  if (read.length === 0) read.push({ from: ids.at(-1)! });
  const outputs = new Map<string, Motif['outputs'][number]>();
  for (const link of read) {
    if (outputs.has(keyOf(link))) continue;
    const from: Link = { from: link.from, ...(link.port === undefined ? {} : { port: link.port }) };
    const name = [strandOf(effect, link.from).name, ...(link.port === undefined ? [] : [link.port])].join(' ');
    outputs.set(keyOf(link), { id: '', name: name.slice(0, 80), kind: kindOf(from) ?? '1', from });
  }
  if (outputs.size > MOST_OUTPUTS)
    throw new NoMotif(`A motif has at most ${MOST_OUTPUTS} outputs; of these strands ${outputs.size} are read outside.`);
  placeOutputs(outputs, as);
  return {
    motif: {
      ...{ id: as.id, revision: (as.before?.revision ?? 0) + 1, name: as.name },
      inputs: parts.ports.sort((a, b) => a.id.localeCompare(b.id, 'en', { numeric: true })),
      outputs: [...outputs.values()].sort((a, b) => a.id.localeCompare(b.id)),
      strands: strands as Motif['strands'],
      ...(as.before?.note === undefined ? {} : { note: as.before.note }),
    },
    inputs: parts.given,
    dials: parts.dials,
    outputs: new Map([...outputs].map(([key, o]) => [key, o.id])),
  };
}

/** Outputs keep their places where they are those that were unfolded, or keep their names. */
function placeOutputs(outputs: ReadonlyMap<string, Motif['outputs'][number]>, { before, handed = NOTHING_HANDED }: As): void {
  const taken = new Set<string>();
  for (const [key, o] of outputs) {
    const known = handed.outputs.get(key);
    const old = before?.outputs.find((b) => b.id === known) ?? before?.outputs.find((b) => b.name === o.name);
    if (!old || taken.has(old.id)) continue;
    Object.assign(o, { id: old.id, name: old.name });
    taken.add(old.id);
  }
  const reserved = new Set(before?.outputs.map((b) => b.id));
  for (const o of outputs.values()) {
    if (o.id !== '') continue;
    const free = Array.from({ length: MOST_OUTPUTS }, (_, k) => `out${k + 1}`).filter((id) => !taken.has(id));
    o.id = free.find((id) => !reserved.has(id)) ?? free[0]!;
    taken.add(o.id);
  }
}

/** Strands between those of a run that read it have to come after it. @throws NoMotif where one of them is read by the run too */
function gather(draft: Effect, ids: readonly string[]): void {
  const strands = strandsOf(draft);
  const inside = new Set(ids);
  const first = strands.findIndex((s) => inside.has(s.id));
  const last = strands.findLastIndex((s) => inside.has(s.id));
  const below = new Set<string>();
  const reads = (s: Strand, of: ReadonlySet<string>) => Object.values(s.inputs ?? {}).find((i) => isLink(i) && of.has(i.from));
  for (const s of strands.slice(first, last + 1)) {
    if (inside.has(s.id)) {
      const held = reads(s, below);
      if (held && isLink(held))
        throw new NoMotif(
          `${strandOf(draft, held.from).name} stands between them: it reads one of them and is read by ${s.name}. Choose it too.`,
        );
    } else if (reads(s, inside) || reads(s, below)) below.add(s.id);
  }
  const middle = strands.slice(first, last + 1);
  const order = [
    ...middle.filter((s) => !inside.has(s.id) && !below.has(s.id)),
    ...middle.filter((s) => inside.has(s.id)),
    ...middle.filter((s) => below.has(s.id)),
  ];
  strands.splice(first, order.length, ...order);
}

/** Puts a use in the place of the strands that its motif was made of. */
function replaceBy(draft: Effect, ids: readonly string[], use: Strand, made: Made): void {
  const inside = new Set(ids);
  const strands = strandsOf(draft);
  const swap = (input: Input | undefined): Input | undefined => {
    if (!isLink(input) || !inside.has(input.from)) return input;
    const port = made.outputs.get(keyOf(input))!;
    return { from: use.id, ...(port === 'out1' ? {} : { port }), ...(input.part === undefined ? {} : { part: input.part }) };
  };
  for (const s of strands)
    if (!inside.has(s.id)) for (const name of Object.keys(s.inputs ?? {})) s.inputs![name] = swap(s.inputs![name]);
  for (const name of Object.keys(draft.outputs) as (keyof Effect['outputs'])[]) draft.outputs[name] = swap(draft.outputs[name])!;
  for (const dial of draft.dials) {
    const input = made.dials.get(dial.id);
    if (input === undefined) continue;
    // Its own name stays: a use may have a dial for several.
    Object.assign(dial, { label: dialLabel(draft, dial), strand: use.id, input });
  }
  const last = strands.findLastIndex((s) => inside.has(s.id));
  strands.splice(last + 1, 0, use);
  const heads = draft.sections.filter((s) => inside.has(s.first));
  for (const section of heads) section.first = use.id;
  const seen = new Set<string>();
  draft.sections = draft.sections.filter((s) => !seen.has(s.first) && seen.add(s.first));
  draft.strands = strands.filter((s) => !inside.has(s.id)) as Effect['strands'];
  // Dials of options: nothing hands those in.
  dropDials(draft, new Set(draft.dials.filter((d) => inside.has(d.strand)).map((d) => d.id)));
}

export interface MakeMotif {
  readonly ids: readonly string[];
  /** Of the new motif. */
  readonly id: string;
  readonly name: string;
  readonly kindOf: KindOf;
}

/** Makes a motif of strands, and puts a use of it in their place. @returns the use's id @throws NoMotif with a sentence */
export function makeMotif(draft: Effect, { ids, id, name, kindOf }: MakeMotif): string {
  return put(draft, ids, kindOf, { id, name });
}

/**
 * Makes a motif again of strands: all its uses follow.
 * @param before as it was, which may be gone from the sheet by now
 * @returns the id of the use that takes their place @throws NoMotif
 */
export function reviseMotif(
  draft: Effect,
  { ids, before, handed, kindOf }: { ids: readonly string[]; before: Motif; handed?: AllHanded; kindOf: KindOf },
): string {
  return put(draft, ids, kindOf, { id: before.id, name: before.name, before, ...(handed ? { handed } : {}) });
}

function put(draft: Effect, chosen: readonly string[], kindOf: KindOf, as: As): string {
  const ids = inOrder(draft, chosen);
  if (ids.length === 0) throw new NoMotif('Choose the strands that are to be one.');
  gather(draft, ids);
  const effect = asItIs(draft);
  const made = making(effect, inOrder(effect, ids), kindOf, as);
  // Names of strands that go are free.
  const rest = { ...effect, strands: strandsOf(effect).filter((s) => !ids.includes(s.id)) } as Effect;
  const use: Strand = {
    ...{ id: freshId(effect, MOTIF), name: freshName(rest, as.name), op: MOTIF },
    inputs: { [MOTIF]: { value: { text: as.id } }, ...made.inputs },
  };
  if (recursion([...effect.motifs.filter((m) => m.id !== as.id), made.motif], made.motif))
    throw new NoMotif(`${as.name} would use itself: unfold it within first.`);
  if (as.before) takeMotif(draft, { motif: made.motif });
  else draft.motifs.push(made.motif);
  replaceBy(draft, ids, use, made);
  return use.id;
}
