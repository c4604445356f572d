/**
 * Another operation in a strand's place: what it reads, who reads it, its dials and its name stay where they fit. What does
 * not fit is told before, by the same function that does it.
 */
import { own } from '../base/wholesome.js';
import { kindOfWidth, widthOfKind, type Kind } from '../base/kinds.js';
import { operatorOf } from '../operators/catalogue.js';
import {
  inputRecord,
  isConstant,
  mainInput,
  restsOn,
  stopOf,
  takesAs,
  type InputRecord,
  type OperatorRecord,
} from '../operators/record.js';
import { dialLabel, dropDials, freshName, strandOf } from './edits.js';
import type { KindOf } from './feeding.js';
import { isColour, isLink, strandsOf, type Effect, type Input, type Link, type Strand, type Value } from './schema.js';

export interface Replacement {
  /** The strand as it would be. */
  readonly strand: Strand;
  /** Where its inputs would go: the new operation's names by the old one's. */
  readonly moved: ReadonlyMap<string, string>;
  /** What would be let go, in words, each to be read after "lets go of". */
  readonly lost: readonly string[];
}

/** The kind of a written value; undefined for what only one form of input takes. */
function kindOfValue(value: Value): Kind | undefined {
  if (typeof value === 'number') return '1';
  if (isColour(value)) return 'rgb';
  return Array.isArray(value) && typeof value[0] === 'number' ? kindOfWidth(value.length) : undefined;
}

/** Both rest on the same place, or are in the same unit. */
function meansTheSame(a: InputRecord, b: InputRecord): boolean {
  if (restsOn(a) !== undefined || restsOn(b) !== undefined) return restsOn(a) === restsOn(b);
  return a.unit !== undefined && a.unit !== '' && a.unit === b.unit;
}

/** Which of the new operation's inputs takes which of the old one's. */
class Fitting {
  readonly moved = new Map<string, string>();
  /** As wide as the free inputs are by now, where one that is wider than a number has been moved. */
  private wide: Kind | null = null;

  constructor(
    private readonly given: ReadonlyMap<string, Input>,
    private readonly old: OperatorRecord,
    private readonly next: OperatorRecord,
    private readonly kindOf: KindOf,
  ) {}

  private get left(): [string, Input][] {
    return [...this.given].filter(([name]) => !this.moved.has(name));
  }
  private free(name: string): boolean {
    return ![...this.moved.values()].includes(name);
  }

  /** @param widened whether a number may go where several are taken */
  private fits(input: Input, record: InputRecord, widened: boolean): boolean {
    const kind = isLink(input) ? this.kindOf(input) : kindOfValue(input.value);
    // A value that has no kind is a literal of its own form.
    if (kind === undefined) return isLink(input);
    const how = takesAs(record, kind);
    if (how === 'no' || (how === 'widened' && !widened)) return false;
    if (isLink(input) && isConstant(record, this.next)) return false;
    if (!isLink(input) && record.literal === 'number' && kind !== '1') return false;
    return record.kind !== 'any' || kind === '1' || this.wide === null || widthOfKind(kind) === widthOfKind(this.wide);
  }

  private move(name: string, to: string, input: Input, record: InputRecord): void {
    const kind = isLink(input) ? this.kindOf(input) : kindOfValue(input.value);
    if (record.kind === 'any' && kind !== undefined && kind !== '1') this.wide ??= kind;
    this.moved.set(name, to);
  }

  /** What has the same name there, and what only has a form: a ramp, a text, an image. */
  bySameName(): void {
    for (const [name, input] of this.left) {
      const literal = stopOf(name) ? name.split('.')[0]! : name;
      const [form, wanted] = [this.old.literals[literal]?.form, this.next.literals[literal]?.form];
      if (form !== undefined) {
        if (form === wanted) this.moved.set(name, name);
        continue;
      }
      const record = this.next.inputs[name];
      if (record && this.fits(input, record, true)) this.move(name, name, input, record);
    }
  }

  /** What the one works on is what the other works on. */
  byWhatItWorksOn(): void {
    const [from, to] = [mainInput(this.old), mainInput(this.next)];
    const input = from === undefined ? undefined : this.given.get(from);
    if (from === undefined || to === undefined || !input || this.moved.has(from) || !this.free(to)) return;
    const record = this.next.inputs[to]!;
    if (this.fits(input, record, false)) this.move(from, to, input, record);
  }

  /** What is left goes to the first input that means the same; links also to what any value may go into. */
  byMeaning(): void {
    for (const [name, input] of this.left) {
      const was = this.old.inputs[name];
      if (!was) continue;
      const found = Object.entries(this.next.inputs).find(
        ([to, record]) =>
          this.free(to) &&
          !this.given.has(to) &&
          this.fits(input, record, false) &&
          (meansTheSame(was, record) || (isLink(input) && record.kind === 'any')),
      );
      if (found) this.move(name, found[0], input, found[1]);
    }
  }
}

/** A name that says only what the operation is. */
const isGiven = ({ name, op }: Strand): boolean => name.replace(/ \d+$/, '').toLowerCase() !== operatorOf(op).label.toLowerCase();

/** What would become of a strand. @param op the operation to come */
export function replacement(effect: Effect, { id, op, kindOf }: { id: string; op: string; kindOf: KindOf }): Replacement {
  const old = strandOf(effect, id);
  const [before, after] = [operatorOf(old.op), operatorOf(op)];
  const given = new Map(Object.entries(old.inputs ?? {}).flatMap(([name, input]) => (input ? [[name, input] as const] : [])));
  if (old.op === op) return { strand: structuredClone(old), moved: new Map([...given.keys()].map((n) => [n, n])), lost: [] };
  const fitting = new Fitting(given, before, after, kindOf);
  fitting.bySameName();
  fitting.byWhatItWorksOn();
  fitting.byMeaning();
  const { moved } = fitting;
  const inputs: Record<string, Input> = {};
  for (const [name, value] of Object.entries(after.initial ?? {})) inputs[name] = { value: value as Value };
  for (const [name, to] of moved) inputs[to] = given.get(name)!;
  const options = Object.fromEntries(
    Object.entries(old.options ?? {}).filter(
      ([name, value]) => value !== undefined && after.options[name]?.values.includes(value),
    ),
  );
  const strand: Strand = {
    id,
    ...(old.note === undefined ? {} : { note: old.note }),
    ...(old.bypassed ? { bypassed: true } : {}),
    op,
    name: isGiven(old) ? old.name : freshName(effect, after.label),
    ...(Object.keys(inputs).length > 0 ? { inputs } : {}),
    ...(Object.keys(options).length > 0 ? { options } : {}),
  };
  return { strand: structuredClone(strand), moved, lost: lostBy(effect, old, strand, moved) };
}

function lostBy(effect: Effect, old: Strand, next: Strand, moved: ReadonlyMap<string, string>): string[] {
  const nameOf = (id: string) => strandOf(effect, id).name;
  const dialOf = (input: string) => effect.dials.find((d) => d.strand === old.id && d.input === input);
  const inputs = Object.entries(old.inputs ?? {}).flatMap(([name, input]) => {
    if (!input || moved.has(name)) return [];
    if (isLink(input)) return [`its link to ${nameOf(input.from)}`];
    const dial = dialOf(name);
    return [dial ? `the dial ${dialLabel(effect, dial)}` : `its ${name}`];
  });
  // A dial may turn what rests on its default.
  const resting = effect.dials.filter((d) => d.strand === old.id && !given(old, d.input) && !turns(d.input, next.op));
  const options = Object.keys(old.options ?? {}).filter((name) => next.options?.[name] === undefined);
  const ports = new Set(portsRead(effect, old.id).filter((port) => !hasPort(next.op, port)));
  return [
    ...inputs,
    ...resting.map((d) => `the dial ${dialLabel(effect, d)}`),
    ...options.map((name) => `its ${name}`),
    ...[...ports].map((port) => `its value “${port}”`),
  ];
}

const given = (strand: Strand, input: string): boolean => own(strand.inputs ?? {}, input) !== undefined;
const turns = (input: string, op: string): boolean => inputRecord(operatorOf(op), input) !== undefined;
const hasPort = (op: string, port: string): boolean => operatorOf(op).outputs.some((o) => o.id === port);

function linksTo(effect: Effect, id: string): Link[] {
  const inputs = [...strandsOf(effect).flatMap((s) => Object.values(s.inputs ?? {})), ...Object.values(effect.outputs)];
  return inputs.filter((i): i is Link => isLink(i) && i.from === id);
}
const portsRead = (effect: Effect, id: string): string[] => linksTo(effect, id).flatMap(({ port }) => port ?? []);

/** Puts another operation in a strand's place. Links to a value that it does not have read its first. */
export function replaceStrand(draft: Effect, { id, with: { strand, moved } }: { id: string; with: Replacement }): void {
  const old = strandOf(draft, id);
  const gone = draft.dials.filter(
    (d) => d.strand === id && !moved.has(d.input) && (given(old, d.input) || !turns(d.input, strand.op)),
  );
  dropDials(draft, new Set(gone.map((d) => d.id)));
  for (const dial of draft.dials) {
    const to = dial.strand === id ? moved.get(dial.input) : undefined;
    if (to === undefined || to === dial.input) continue;
    dial.input = to;
    dial.unit = inputRecord(operatorOf(strand.op), to)?.unit ?? '';
  }
  for (const link of linksTo(draft, id)) if (link.port !== undefined && !hasPort(strand.op, link.port)) delete link.port;
  strandsOf(draft).splice(strandsOf(draft).indexOf(old), 1, structuredClone(strand));
}
