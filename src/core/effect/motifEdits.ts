/** Edits of motifs and their uses: one more use, unfolding one, another revision, inputs and outputs named. */
import { motifWithin } from './carried.js';
import { dialLabel, dropDials, freshId, freshName, strandOf, dropInput } from './edits.js';
import { MOTIF, asItIs, inputsOf, motifOf, outputsOf, restOf, sourceOf, usedBy, usesOf } from './motifs.js';
import {
  isLink,
  strandsOf,
  type Dial,
  type Effect,
  type Input,
  type Link,
  type Motif,
  type MotifInput,
  type Strand,
} from './schema.js';

const strandsIn = (motif: Motif): Strand[] => strandsOf(motif as unknown as Effect);

/** A strand that uses a motif, with the values that its inputs begin with. */
export const freshUse = (motif: Motif, id: string, name: string): Strand => ({
  ...{ id, name, op: MOTIF },
  inputs: {
    [MOTIF]: { value: { text: motif.id } },
    ...Object.fromEntries([...inputsOf(motif)].map(([place, i]) => [place, { value: structuredClone(restOf(i)) }])),
  },
});

/** Takes another revision of a motif, or one that is not there yet: uses lose what it has no more, and are given what is new. */
export function takeMotif(draft: Effect, { motif }: { motif: Motif }): void {
  // Those within it are taken likewise, where they are newer than what is there.
  const own = motifWithin(draft, motif, (inner) => takeMotif(draft, { motif: inner }));
  const at = draft.motifs.findIndex((m) => m.id === motif.id);
  if (at < 0) {
    draft.motifs.push(own);
    return;
  }
  draft.motifs[at] = own;
  const inputs = inputsOf(motif);
  const outputs = outputsOf(motif);
  const uses = new Set(usesOf(draft, motif.id).map((s) => s.id));
  const lost = (input: Input | undefined) => isLink(input) && uses.has(input.from) && !outputs.has(input.port ?? 'out1');
  for (const s of strandsOf(draft)) {
    const used = uses.has(s.id);
    for (const [name, input] of Object.entries(s.inputs ?? {}))
      if (lost(input) || (used && name !== MOTIF && !inputs.has(name))) dropInput(s, name);
    for (const [id, input] of used ? inputs : [])
      if (!s.inputs?.[id]) (s.inputs ??= {})[id] = { value: structuredClone(restOf(input)) };
  }
  for (const name of Object.keys(draft.outputs) as (keyof Effect['outputs'])[])
    if (lost(draft.outputs[name])) delete draft.outputs[name];
  dropDials(draft, new Set(draft.dials.filter((d) => uses.has(d.strand) && !inputs.has(d.input)).map((d) => d.id)));
}

/** What a motif, an input or an output of it is called, and what a new use begins with. */
export interface MotifChange {
  readonly id: string;
  readonly name?: string;
  readonly note?: string;
  readonly port?: { readonly id: string; readonly name?: string; readonly soft?: readonly [number, number] };
}

export function changeMotif(draft: Effect, { id, name, note, port }: MotifChange): void {
  const motif = draft.motifs.find((m) => m.id === id);
  if (!motif) return;
  motif.revision++;
  if (name?.trim()) motif.name = name.trim().slice(0, 80);
  if (note !== undefined) {
    if (note.trim()) motif.note = note.slice(0, 4000);
    else delete motif.note;
  }
  const found = port && [...motif.inputs, ...motif.outputs].find((p) => p.id === port.id);
  if (found && port.name?.trim()) found.name = port.name.trim().slice(0, 80);
  if (found && 'soft' in port && port.soft && found.id.startsWith('in')) (found as Motif['inputs'][number]).soft = [...port.soft];
}

/** Gives a motif another id and name: all that use it here follow, and what has the old id elsewhere is another motif. */
export function asItsOwn(draft: Effect, { from, id, name }: { from: string; id: string; name: string }): void {
  const motif = draft.motifs.find((m) => m.id === from);
  if (!motif) return;
  for (const s of [...strandsOf(draft), ...draft.motifs.flatMap(strandsIn)])
    if (motifOf(draft, s) === motif) s.inputs![MOTIF] = { value: { text: id } };
  Object.assign(motif, { id, name });
}

/** Motifs that nothing uses are not kept. */
export function dropUnused(draft: Effect): void {
  const used = new Set(usedBy(draft, strandsOf(draft)).map((m) => m.id));
  if (draft.motifs.some((m) => !used.has(m.id))) draft.motifs = draft.motifs.filter((m) => used.has(m.id));
}

const LANES = (c: string): number => Math.max('xyzw'.indexOf(c), 'rgba'.indexOf(c));

/** Of what an outer link gives, the parts that an inner one picks. */
function through(outer: Link, inner: Link): Link {
  if (inner.part === undefined) return { ...outer };
  const { part } = outer;
  return { ...outer, part: part ? [...inner.part].map((c) => part[Math.min(LANES(c), part.length - 1)]!).join('') : inner.part };
}

const CONSTANT: Readonly<Record<string, string>> = { '1': 'number', rgb: 'colour' };

/** What a strand that was unfolded was given through an input of its motif: it is that input again when it is put back. */
export interface Handed {
  /** The input's id in the motif. */
  readonly port: string;
  readonly part?: string;
  /** What the use was given. */
  readonly given: Input;
  /** What the strand is given in the sheet. */
  readonly here: Input;
}

/** What was handed in, by `strand.input`; which output a strand's, or its port's, value was: by `strand` or `strand.port`. */
export interface AllHanded {
  readonly inputs: ReadonlyMap<string, Handed>;
  readonly outputs: ReadonlyMap<string, string>;
}

export const NOTHING_HANDED: AllHanded = { inputs: new Map(), outputs: new Map() };

class Unfolding {
  readonly handed = new Map<string, Handed>();
  readonly added: Strand[] = [];
  /** Strands of the motif, by their ids in it. */
  readonly ids = new Map<string, string>();
  readonly dials = new Map<Dial, { strand: string; input: string }>();
  private readonly given = new Map<string, Input>();

  constructor(
    private readonly effect: Effect,
    private readonly use: Strand,
    private readonly motif: Motif,
  ) {
    for (const s of strandsIn(motif)) this.ids.set(s.id, this.name(s.op, s.name).id);
    for (const [place, input] of inputsOf(motif)) this.input(place, input);
    // Values that several strands read go first.
    this.added.sort((a, b) => Number([...this.ids.values()].includes(a.id)) - Number([...this.ids.values()].includes(b.id)));
    for (const s of strandsIn(motif)) this.fill(s);
  }

  private name(op: string, name: string): Strand {
    const whole = { ...this.effect, strands: [...strandsOf(this.effect), ...this.added] } as Effect;
    const strand: Strand = { id: freshId(whole, op), name: freshName(whole, name), op };
    this.added.push(strand);
    return strand;
  }

  /** What an input is within: what it was given, where that is a link or one strand reads all of it; else a value of its own. */
  private input(place: string, input: MotifInput): void {
    const value = this.use.inputs?.[place] ?? { value: restOf(input) };
    const read = strandsIn(this.motif).flatMap((s) =>
      Object.entries(s.inputs ?? {}).flatMap(([name, i]) =>
        isLink(i) && i.from === input.id ? [{ strand: s.id, input: name, part: i.part }] : [],
      ),
    );
    const handed = this.motif.outputs.some((o) => sourceOf(o).from === input.id);
    const alone = read.length === 1 && read[0]!.part === undefined && !handed ? read[0]! : null;
    const dial = this.effect.dials.find((d) => d.strand === this.use.id && d.input === place);
    if (isLink(value) || alone) {
      this.given.set(input.id, value);
      if (dial && alone) this.dials.set(dial, { strand: this.ids.get(alone.strand)!, input: alone.input });
      return;
    }
    if (read.length === 0 && !handed) return;
    const constant = this.name(CONSTANT[input.kind] ?? 'vector', input.name);
    constant.inputs = { in: structuredClone(value) };
    this.handed.set(`${constant.id}.in`, { port: input.id, given: value, here: value });
    this.given.set(input.id, { from: constant.id });
    if (dial) this.dials.set(dial, { strand: constant.id, input: 'in' });
  }

  /** A link of the motif's own, as one of the sheet. */
  within(input: Input): Input {
    if (!isLink(input)) return structuredClone(input);
    const outer = this.given.get(input.from);
    if (outer === undefined) return { ...input, from: this.ids.get(input.from)! };
    return isLink(outer) ? through(outer, input) : structuredClone(outer);
  }

  private fill(s: Strand): void {
    const copy = this.added.find((a) => a.id === this.ids.get(s.id))!;
    const { id, name } = copy;
    Object.assign(copy, structuredClone(s), { id, name });
    for (const [key, input] of Object.entries(s.inputs ?? {})) {
      if (!input) continue;
      const here = (copy.inputs![key] = this.within(input));
      const given = isLink(input) && !input.port ? this.given.get(input.from) : undefined;
      // A value of its own that several strands read is an input already.
      if (!isLink(input) || !given || (isLink(given) && this.added.some((a) => a.id === given.from))) continue;
      this.handed.set(`${id}.${key}`, { port: input.from, ...(input.part ? { part: input.part } : {}), given, here });
    }
  }
}

/** Puts a motif's strands in the place of a use, with what it was given. @returns their ids, and what they were handed */
export function unfoldMotif(draft: Effect, { id }: { id: string }): { ids: string[]; handed: AllHanded } {
  const effect = asItIs(draft);
  const use = strandOf(effect, id);
  const motif = motifOf(effect, use);
  if (!motif) return { ids: [], handed: NOTHING_HANDED };
  const open = new Unfolding(effect, use, motif);
  const swap = (input: Input | undefined): Input | undefined => {
    if (!isLink(input) || input.from !== id) return input;
    const output = outputsOf(motif).get(input.port ?? 'out1');
    const source: Input = output ? open.within(sourceOf(output)) : { value: 0 };
    return isLink(source) ? through(source, input) : source;
  };
  for (const s of strandsOf(draft)) for (const [name, input] of Object.entries(s.inputs ?? {})) s.inputs![name] = swap(input);
  for (const name of Object.keys(draft.outputs) as (keyof Effect['outputs'])[]) draft.outputs[name] = swap(draft.outputs[name])!;
  for (const [dial, to] of open.dials) {
    const own = draft.dials.find((d) => d.id === dial.id)!;
    Object.assign(own, { label: dialLabel(effect, dial), ...to });
  }
  dropDials(draft, new Set(draft.dials.filter((d) => d.strand === id).map((d) => d.id)));
  for (const section of draft.sections) if (section.first === id) section.first = open.added[0]!.id;
  const place = strandsOf(draft).findIndex((s) => s.id === id);
  strandsOf(draft).splice(place, 1, ...open.added);
  dropUnused(draft);
  const constants = open.added.filter((s) => open.handed.has(`${s.id}.in`) && ![...open.ids.values()].includes(s.id));
  const outputs = new Map<string, string>();
  for (const [, output] of outputsOf(motif)) {
    const { from, port } = sourceOf(output);
    const strand = open.ids.get(from);
    if (strand !== undefined) outputs.set(port === undefined ? strand : `${strand}.${port}`, output.id);
  }
  return { ids: [...constants.map((s) => s.id), ...open.ids.values()], handed: { inputs: open.handed, outputs } };
}
