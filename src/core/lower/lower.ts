/**
 * From the document to IR, once. Problems are collected strand by strand; a strand with a problem gives neutral
 * values to its readers, so that one mistake is reported once.
 */
import { own } from '../base/wholesome.js';
import { goesInto, kindInWords, kindOfWidth, widthOfKind, type Kind } from '../base/kinds.js';
import type { Problem } from '../effect/read.js';
import { isLink, strandsOf, type Dial, type Effect, type Input, type Strand } from '../effect/schema.js';
import { Builder } from '../ir/builder.js';
import { growingBuilder } from '../ir/growth.js';
import { widthOf, type Interval, type Node } from '../ir/types.js';
import { operatorOf } from '../operators/catalogue.js';
import { inputRecord, mainInput, stopOf, type InputRecord, type OperatorRecord, type RampNodes } from '../operators/record.js';
import { boundsOf } from './bounds.js';
import { fitting, outputKind, takes, unified, type Given, type Unified } from './kinds.js';
import { Literals, isNumeric } from './literals.js';
import { lowerOutputs } from './outputs.js';
import { componentsOf, rampOf } from './params.js';
import type { Complain, LoweredStrand, Port, Program } from './program.js';

export type { LoweredStrand, Port, Program } from './program.js';

export interface LowerOptions {
  /** `live` keeps every literal a parameter; `frozen` folds them in. */
  readonly build: 'live' | 'frozen';
  /** Dials that are held at their value although the build is live. */
  readonly hold?: ReadonlySet<string>;
  /** Cues written out, key by key, for programs that stand alone: otherwise their keys are a table that is searched. */
  readonly writeCues?: boolean;
}

class Lowering {
  readonly b: Builder;
  readonly literals: Literals;
  readonly problems: Problem[] = [];
  readonly strands = new Map<string, LoweredStrand>();

  constructor(
    private readonly effect: Effect,
    { build, hold = new Set(), writeCues = build === 'frozen' }: LowerOptions,
  ) {
    // A loop is short: its times are exact enough as they are.
    this.b = effect.loop === null ? growingBuilder() : new Builder();
    this.literals = new Literals(this.b, effect, { live: build === 'live', hold, writeCues });
  }

  readonly complain: Complain = (strand, code, message, at) => {
    this.problems.push({ strand, code, message, ...(at === undefined ? {} : { at }) });
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
    if (isLink(input)) return this.follow(input);
    const cued = dial && this.literals.cue(dial, unit);
    if (cued) return cued;
    if (input) {
      if (isNumeric(input.value)) return this.literals.literal(input.value, { strand: strand.id, input: name }, unit);
      this.complain(strand.id, 'kind', `${strand.name}: ${name} takes ${takes(record)}, not this kind of value.`);
      return { node: this.b.constant(0), kind: '1' };
    }
    if (record.optional || stopOf(name)) return undefined;
    if (typeof record.default === 'object' && 'leaf' in record.default) {
      const node = this.b.leaf(record.default.leaf);
      return { node, kind: kindOfWidth(widthOf(node.type)) };
    }
    const components = componentsOf(typeof record.default === 'number' ? record.default : [...record.default], 'value', unit);
    // A default is a live number too: the first drag of it must not change the program.
    const node = this.literals.number({ from: 'strand', strand: strand.id, input: name, part: 'value' }, components, unit);
    return { node, kind: record.kind === 'rgb' ? 'rgb' : kindOfWidth(components.length) };
  }

  readonly follow = (link: Extract<Input, { from: string }>): Port => {
    const strand = this.strands.get(link.from)!;
    const port = link.port === undefined ? strand.value : own(strand.ports, link.port)!;
    if (link.part === undefined) return port;
    const letters = /^[xyzw]+$/.test(link.part) ? 'xyzw' : 'rgba';
    const lanes = [...link.part].map((c) => Math.min(letters.indexOf(c), widthOf(port.node.type) - 1));
    const kind = port.kind === 'rgb' && lanes.length === 3 ? 'rgb' : kindOfWidth(lanes.length);
    return { node: this.b.pick(port.node, ...lanes), kind };
  };

  strand(strand: Strand): void {
    const operator = operatorOf(strand.op);
    const given: Record<string, Port> = {};
    for (const name in operator.inputs) {
      const port = this.source(strand, name, operator.inputs[name]!, strand.inputs?.[name]);
      if (port) given[name] = port;
    }
    const ports = strand.bypassed ? this.bypass(operator, given) : this.apply(strand, operator, given);
    this.strands.set(strand.id, { id: strand.id, name: strand.name, ports, value: ports[operator.outputs[0]!.id]! });
  }

  private bypass(operator: OperatorRecord, given: Given): Record<string, Port> {
    const main = mainInput(operator);
    const through = (main === undefined ? undefined : given[main]) ?? { node: this.b.constant(0), kind: '1' as Kind };
    return Object.fromEntries(operator.outputs.map((o) => [o.id, through]));
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

  private results(
    strand: Strand,
    operator: OperatorRecord,
    nodes: Readonly<Record<string, Node>>,
  ): Readonly<Record<string, Node | undefined>> {
    const options: Record<string, string> = {};
    for (const name in operator.options) options[name] = strand.options?.[name] ?? operator.options[name]!.default;
    // What runs on has no loop to close.
    if (operator.options.over && this.effect.loop === null) options.over = operator.options.over.default;
    const given = this.literals.given(strand, operator, (literal) => this.ramp(strand, literal), this.complain);
    const fail = (code: string, message: string, at?: number) => {
      this.complain(strand.id, code, `${strand.name}: ${message}`, at);
      return {};
    };
    return operator.lower({ b: this.b, options, ...given, fail }, nodes);
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

/** Lowers a document that has been read and validated, with any variant already applied. */
export function lower(effect: Effect, options: LowerOptions): Program {
  const lowering = new Lowering(effect, options);
  for (const strand of strandsOf(effect)) lowering.strand(strand);
  const { b: builder, strands, literals, follow, complain, problems } = lowering;
  const outputs = lowerOutputs(effect, { b: builder, literals, strands, follow, complain });
  const { params, paramCount } = literals;
  const places = [...strands.values()].flatMap((s) => Object.entries(s.ports).map(([port, p]) => `${s.id}.${port}:${p.node.id}`));
  const ends = [...outputs].map(([name, port]) => `${name}:${port.node.id}`);
  const signature = [builder.signature(), ...places, ...ends].join('|');
  let bounds: readonly Interval[] | null = null;
  return {
    ...{ builder, strands, outputs, params, paramCount, problems, signature },
    // Only the ranges ask for them.
    get paramBounds() {
      return (bounds ??= boundsOf(params, effect));
    },
  };
}
