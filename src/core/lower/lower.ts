/**
 * From the document to IR, once. Problems are collected strand by strand; a strand with a problem gives neutral
 * values to its readers, so that one mistake is reported once.
 */
import { own } from '../base/wholesome.js';
import { goesInto, kindInWords, kindOfPart, kindOfWidth, widthOfKind, type Kind } from '../base/kinds.js';
import type { Problem } from '../effect/read.js';
import { strandMark, surroundingsMark } from '../effect/skeleton.js';
import { flat, handsOn, rowOf } from '../effect/motifs.js';
import { isLink, strandsOf, type Dial, type Effect, type Input, type Strand } from '../effect/schema.js';
import { Builder } from '../ir/builder.js';
import { growingBuilder } from '../ir/growth.js';
import { widthOf, type Interval, type Node } from '../ir/types.js';
import { operatorOf } from '../operators/catalogue.js';
import { handedOn, inputRecord, stopOf, type InputRecord, type OperatorRecord, type RampNodes } from '../operators/record.js';
import { boundsOf } from './bounds.js';
import { fitting, outputKind, takes, unified, type Given, type Unified } from './kinds.js';
import { Literals, ParamPlaces, isNumeric } from './literals.js';
import { lowerOutputs } from './outputs.js';
import { componentsOf, rampOf, type Param } from './params.js';
import { plain } from './plain.js';
import type { Complain, LoweredStrand, Port, Program } from './program.js';
import { switched, type Results, type Switching } from './switched.js';

export type { LoweredStrand, Port, Program } from './program.js';

export interface LowerOptions {
  /** `live` keeps every literal a parameter; `frozen` folds them in. */
  readonly build: 'live' | 'frozen';
  /** Dials that are held at their value although the build is live. */
  readonly hold?: ReadonlySet<string>;
  /** Cues written out, key by key, for programs that stand alone: otherwise their keys are a table that is searched. */
  readonly writeCues?: boolean;
}

type Link = Extract<Input, { from: string }>;

const sameReads = (a: readonly Port[], b: readonly Port[]): boolean =>
  a.length === b.length &&
  a.every((port, k) => port.node === b[k]!.node && port.kind === b[k]!.kind && port.neutral === b[k]!.neutral);

/** What a strand came to, and what that rests on besides the whole of the effect. */
interface KeptStrand {
  /** What of the strand itself makes its program. */
  readonly mark: string;
  readonly reads: readonly Port[];
  readonly ports: LoweredStrand['ports'];
  readonly params: readonly Param[];
}

/** What one lowering leaves to the next. */
interface Before {
  readonly builder: Builder;
  readonly places: ParamPlaces;
  /** Null for a sheet that is lowered once. */
  readonly strands: Map<string, KeptStrand> | null;
}

const freshFor = (effect: Effect, kept: boolean): Before => ({
  // A loop is short: its times are exact enough as they are.
  builder: effect.loop === null ? growingBuilder() : new Builder(),
  places: new ParamPlaces(kept),
  strands: kept ? new Map() : null,
});

class Lowering {
  readonly b: Builder;
  readonly literals: Literals;
  readonly problems: Problem[] = [];
  readonly strands = new Map<string, LoweredStrand>();

  constructor(
    private readonly effect: Effect,
    { build, hold = new Set(), writeCues = build === 'frozen' }: LowerOptions,
    /** What is there of an earlier one. */
    private readonly before: Before = freshFor(effect, false),
  ) {
    this.b = before.builder;
    this.literals = new Literals(this.b, effect, { live: build === 'live', hold, writeCues }, before.places);
  }

  readonly complain: Complain = (strand, code, message, at) => {
    // What is wrong within a motif is told where it is used.
    this.problems.push({ strand: strand === null ? null : rowOf(strand), code, message, ...(at === undefined ? {} : { at }) });
  };

  /** What an input gives before it is fitted to its kind; undefined for an optional one that is absent. */
  private source(
    strand: Strand,
    name: string,
    record: InputRecord,
    input: Input | undefined,
    dial: Dial | undefined = this.literals.dialOf(strand.id, name),
  ): Port | undefined {
    const unit = record.unit ?? '';
    if (isLink(input)) {
      const port = this.follow(input);
      return port.neutral ? this.resting(strand, name, record, port.kind) : port;
    }
    const cued = dial && this.literals.cue(dial, unit);
    if (cued) return cued;
    if (input) {
      if (isNumeric(input.value)) return this.literals.literal(input.value, { strand: strand.id, input: name }, unit);
      this.complain(strand.id, 'kind', `${strand.name}: ${name} takes ${takes(record)}, not this kind of value.`);
      return { node: this.b.constant(0), kind: '1' };
    }
    return this.resting(strand, name, record);
  }

  /** What an input is that nothing is given to. @param wide as wide as this kind, where its default is one number */
  private resting(strand: Strand, name: string, record: InputRecord, wide?: Kind): Port | undefined {
    const unit = record.unit ?? '';
    if (record.optional || stopOf(name)) return undefined;
    if (typeof record.default === 'object' && 'leaf' in record.default) {
      const node = this.b.leaf(record.default.leaf);
      return { node, kind: kindOfWidth(widthOf(node.type)) };
    }
    const components = componentsOf(typeof record.default === 'number' ? record.default : [...record.default], 'value', unit);
    // A default is a live number too: the first drag of it must not change the program.
    const node = this.literals.number({ from: 'strand', strand: strand.id, input: name, part: 'value' }, components, unit);
    if (wide && components.length === 1) return { node: this.b.widen(node, widthOfKind(wide)), kind: wide };
    return { node, kind: record.kind === 'rgb' ? 'rgb' : kindOfWidth(components.length) };
  }

  private linked({ from, port }: Link): Port {
    const strand = this.strands.get(from)!;
    return port === undefined ? strand.value : own(strand.ports, port)!;
  }

  readonly follow = (link: Link): Port => {
    const port = this.linked(link);
    if (link.part === undefined) return port;
    const letters = /^[xyzw]+$/.test(link.part) ? 'xyzw' : 'rgba';
    const lanes = [...link.part].map((c) => Math.min(letters.indexOf(c), widthOf(port.node.type) - 1));
    return {
      node: this.b.pick(port.node, ...lanes),
      kind: kindOfPart(port.kind, link.part),
      ...(port.neutral ? { neutral: true } : {}),
    };
  };

  strand(strand: Strand): void {
    const { strands } = this.before;
    const ports = strands ? this.knownOrMade(strand, strands) : this.lowered(strand);
    const [first] = operatorOf(strand.op).outputs;
    this.strands.set(strand.id, { id: strand.id, name: strand.name, ports, value: ports[first!.id]! });
  }

  /** What the strand's links lead to now. */
  private readsOf({ inputs }: Strand): Port[] {
    const reads: Port[] = [];
    for (const name in inputs) {
      const input = inputs[name];
      if (isLink(input)) reads.push(this.linked(input));
    }
    return reads;
  }

  /** What it came to before, where nothing that it rests on is another; else it is lowered, and kept. */
  private knownOrMade(strand: Strand, known: Map<string, KeptStrand>): LoweredStrand['ports'] {
    const reads = this.readsOf(strand);
    const mark = strandMark(strand);
    const kept = known.get(strand.id);
    if (kept && kept.mark === mark && sameReads(kept.reads, reads)) {
      this.literals.params.push(...kept.params);
      return kept.ports;
    }
    const [params, problems] = [this.literals.params.length, this.problems.length];
    this.literals.reader = strand.id;
    const ports = this.lowered(strand);
    // What is wrong is found, and told, again.
    if (this.problems.length > problems) known.delete(strand.id);
    else known.set(strand.id, { mark, reads, ports, params: this.literals.params.slice(params) });
    return ports;
  }

  private lowered(strand: Strand): Record<string, Port> {
    const operator = operatorOf(strand.op);
    if (handsOn(strand)) return this.handed(strand, operator);
    const given: Record<string, Port> = {};
    for (const name in operator.inputs) {
      const port = this.source(strand, name, operator.inputs[name]!, strand.inputs?.[name]);
      if (port) given[name] = port;
    }
    return strand.bypassed ? this.bypass(strand, operator, given) : this.apply(strand, operator, given);
  }

  /** A motif's input, or a use of one: what it reads as it is, also where that is neutral. */
  private handed(strand: Strand, operator: OperatorRecord): Record<string, Port> {
    const names = Object.keys(operator.inputs);
    return Object.fromEntries(
      operator.outputs.map(({ id }, k) => {
        const name = names[k]!;
        const input = strand.inputs?.[name];
        const unit = (strand.options?.unit ?? '') as NonNullable<InputRecord['unit']>;
        const port = isLink(input) ? this.follow(input) : this.source(strand, name, { ...operator.inputs[name]!, unit }, input);
        const { node, kind, neutral } = port ?? { node: this.b.constant(0), kind: '1' as const };
        return [id, { node, kind, ...(neutral || strand.bypassed ? { neutral: true } : {}) }];
      }),
    );
  }

  /** It keeps its kinds: what it works on is handed on where that is of the same kind; else readers rest on their own. */
  private bypass(strand: Strand, operator: OperatorRecord, given: Given): Record<string, Port> {
    const before = this.problems.length;
    const made = this.apply(strand, operator, given);
    // What is bypassed cannot be wrong.
    this.problems.length = before;
    return Object.fromEntries(
      Object.entries(made).map(([id, { kind }]) => [
        id,
        this.through(operator, given, kind) ?? { node: this.b.widen(0, widthOfKind(kind)), kind, neutral: true },
      ]),
    );
  }

  /** What a bypassed operation hands on as a value of a kind; null for what makes something of its own. */
  private through(operator: OperatorRecord, given: Given, kind: Kind): Port | null {
    const main = handedOn(operator);
    if (main === undefined) return null;
    const free = Object.keys(operator.inputs).filter((name) => name !== main && operator.inputs[name]!.kind === 'any');
    const same = [main, ...free].map((name) => given[name]).find((port) => port?.kind === kind && !port.neutral);
    if (same) return same;
    const wide = given[main];
    if (!wide || wide.neutral || widthOfKind(wide.kind) !== 1) return null;
    return { node: this.b.widen(wide.node, widthOfKind(kind)), kind };
  }

  private apply(strand: Strand, operator: OperatorRecord, given: Given): Record<string, Port> {
    const { b } = this;
    const together = unified(operator, given);
    const nodes: Record<string, Node> = {};
    const kinds: Record<string, Kind> = {};
    const before = this.problems.length;
    for (const name in operator.inputs) {
      const port = given[name];
      if (!port) continue;
      const kind = fitting(operator.inputs[name]!, port.kind, together.kind);
      if (!kind) {
        this.misfit(strand, operator, name, given, together);
        continue;
      }
      nodes[name] = b.widen(port.node, widthOfKind(kind));
      kinds[name] = kind;
    }
    const results = this.problems.length > before ? {} : this.results(strand, operator, nodes);
    const ports: Record<string, Port> = {};
    for (const output of operator.outputs) {
      const node = results[output.id];
      const kind = outputKind(output, node, kinds, together.kind);
      ports[output.id] = { kind, node: node ?? b.widen(0, widthOfKind(kind)) };
    }
    return ports;
  }

  private misfit(strand: Strand, operator: OperatorRecord, name: string, given: Given, { leader }: Unified): void {
    const nameOf = (input: string) => {
      const link = strand.inputs?.[input];
      return isLink(link) ? this.strands.get(link.from)!.name + (link.part ? `.${link.part}` : '') : input;
    };
    const record = operator.inputs[name]!;
    const other =
      record.kind === 'any' && leader !== null
        ? `${nameOf(leader)} is ${kindInWords(given[leader]!.kind)}`
        : `the ${operator.label} ${name} takes ${takes(record)}`;
    this.complain(strand.id, 'kind', `${nameOf(name)} is ${kindInWords(given[name]!.kind)}, ${other}.`);
  }

  private results(strand: Strand, operator: OperatorRecord, nodes: Readonly<Record<string, Node>>): Results {
    const options: Record<string, string> = {};
    for (const name in operator.options) options[name] = strand.options?.[name] ?? operator.options[name]!.default;
    // What runs on has no loop to close.
    if (operator.options.over && this.effect.loop === null) options.over = operator.options.over.default;
    const given = this.literals.given(strand, operator, (literal) => this.ramp(strand, literal), this.complain);
    const fail = (code: string, message: string, at?: number) => {
      this.complain(strand.id, code, `${strand.name}: ${message}`, at);
      return {};
    };
    const cued = (name: string) => this.literals.dialOf(strand.id, name);
    const switching: Switching = {
      b: this.b,
      words: (name) => this.literals.words(cued(name)),
      which: (name) => this.literals.cue(cued(name)!, '')!.node,
      make: (chosen) => operator.lower({ b: this.b, options: chosen, ...given, fail }, nodes),
      fail: (name) => fail('switch', `with another ${name} it gives another kind of value, so that ${name} cannot be keyed.`),
    };
    return switched(switching, Object.keys(operator.options), options);
  }

  private ramp(strand: Strand, literal: string): RampNodes {
    const { stops, space, interpolation } = rampOf(strand, literal);
    return {
      stops: stops.map((stop, k) => ({
        place: this.stop(strand, `${literal}.${k}`, 'place', [stop.at]),
        colour: this.stop(strand, `${literal}.${k}`, 'colour', [...stop.rgb]),
      })),
      space,
      interpolation,
    };
  }

  /** One number or colour of a stop, which is an input like any other. @param stop the stop's own name, `stops.0` */
  private stop(strand: Strand, stop: string, part: 'place' | 'colour', components: number[]): Node {
    const name = `${stop}.${part}`;
    const record = inputRecord(operatorOf(strand.op), name)!;
    const given = strand.inputs?.[name];
    const dial =
      this.literals.dialOf(strand.id, name) ?? this.literals.dialOf(strand.id, `${stop}.${part === 'place' ? 'at' : 'rgb'}`);
    const port = given || dial ? this.source(strand, name, record, given, dial) : undefined;
    if (port && goesInto(port.kind, record.kind as Kind)) return this.b.widen(port.node, components.length);
    if (port) this.complain(strand.id, 'kind', `${strand.name}: ${name} takes ${takes(record)}, not ${kindInWords(port.kind)}.`);
    return this.literals.number({ from: 'strand', strand: strand.id, input: name, part: 'value' }, components, '');
  }
}

function signatureOf(
  builder: Builder,
  count: number,
  strands: ReadonlyMap<string, LoweredStrand>,
  outputs: Program['outputs'],
): string {
  const places = [...strands.values()].flatMap((s) => Object.entries(s.ports).map(([port, p]) => `${s.id}.${port}:${p.node.id}`));
  const ends = [...outputs].map(([name, port]) => `${name}:${port.node.id}`);
  return [builder.signature(count), ...places, ...ends].join('|');
}

/** Lowers a document that has been read and validated, with any variant already applied. */
export function lower(whole: Effect, options: LowerOptions): Program {
  const effect = flat(whole);
  const made = program(effect, new Lowering(effect, options));
  return options.build === 'frozen' ? plain(made, effect.loop) : made;
}

/** Nodes that may be left over of earlier sheets before all is made anew: as many again, and so many. */
const LEFT_OVER = 4096;

/**
 * One sheet, lowered again and again as it is edited, live: only strands that have changed, and those that read other
 * nodes than before, are lowered anew. The programs are those that `lower` makes, but for the order of what has been
 * added later, and where their live numbers stand.
 */
export class Lineage {
  private before: Before | null = null;
  private mark = '';
  /** Nodes after all was made anew. */
  private size = 0;

  lower(whole: Effect): Program {
    const effect = flat(whole);
    const mark = surroundingsMark(effect);
    const before = this.before;
    const fresh = !before || mark !== this.mark || before.builder.nodes.length > 2 * this.size + LEFT_OVER;
    const from = fresh ? freshFor(effect, true) : before;
    const alive = new Set(strandsOf(effect).map((s) => s.id));
    for (const id of from.strands!.keys()) if (!alive.has(id)) from.strands!.delete(id);
    const made = program(effect, new Lowering(effect, { build: 'live' }, from));
    if (fresh) this.size = from.builder.nodes.length;
    this.before = from;
    this.mark = mark;
    return made;
  }
}

function program(effect: Effect, lowering: Lowering): Program {
  for (const strand of strandsOf(effect)) lowering.strand(strand);
  const { b: builder, strands, literals, follow, complain, problems } = lowering;
  literals.reader = '';
  const outputs = lowerOutputs(effect, { b: builder, literals, strands, follow, complain });
  const { params, paramCount } = literals;
  // What is added to the builder later does not count.
  const count = builder.nodes.length;
  let signature: string | null = null;
  let bounds: readonly Interval[] | null = null;
  return {
    ...{ builder, strands, outputs, params, paramCount, problems },
    plainer: (nodes) => nodes,
    // Asked for where materials are told apart.
    get signature() {
      return (signature ??= signatureOf(builder, count, strands, outputs));
    },
    // Only the ranges ask for them.
    get paramBounds() {
      return (bounds ??= boundsOf(params, effect));
    },
  };
}
