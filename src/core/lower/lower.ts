/**
 * From the document to IR, once. Problems are collected strand by strand; a strand with a problem gives neutral
 * values to its readers, so that one mistake is reported once.
 */
import { own } from '../base/wholesome.js';
import { EASE_KINDS, rowOf } from '../base/keys.js';
import { goesInto, kindInWords, kindOfWidth, widthOfKind, type Kind } from '../base/kinds.js';
import { Builder } from '../ir/builder.js';
import { growingBuilder } from '../ir/growth.js';
import { costlier, type Rate } from '../ir/leaves.js';
import { cubicBezier } from '../ir/kernels/easing.js';
import { widthOf, type Interval, type Node } from '../ir/types.js';
import { operatorOf } from '../operators/catalogue.js';
import { rates } from '../passes/rates.js';
import {
  inputRecord,
  mainInput,
  stopOf,
  type InputRecord,
  type LowerContext,
  type OperatorRecord,
  type RampNodes,
  type Unit,
} from '../operators/record.js';
import type { Problem } from '../effect/read.js';
import {
  isColour,
  isImage,
  isLink,
  isRamp,
  isWritten,
  pictureKey,
  strandsOf,
  type Cue,
  type Dial,
  type Effect,
  type Input,
  type Strand,
  type Value,
} from '../effect/schema.js';
import { outputRecord, type OutputName } from '../effect/outputs.js';
import { componentsOf, easeHandles, keyTable, rampOf, type Param, type ParamSource } from './params.js';
import { boundsOf } from './bounds.js';

export interface Port {
  readonly node: Node;
  readonly kind: Kind;
}

export interface LoweredStrand {
  readonly id: string;
  readonly name: string;
  /** By output id; the first is the strand's value. */
  readonly ports: Readonly<Record<string, Port>>;
  readonly value: Port;
}

export interface Program {
  readonly builder: Builder;
  readonly strands: ReadonlyMap<string, LoweredStrand>;
  readonly outputs: ReadonlyMap<OutputName, Port>;
  readonly params: readonly Param[];
  /** How many live numbers there are. */
  readonly paramCount: number;
  /** Bounds of each live number, for the ranges. */
  readonly paramBounds: readonly Interval[];
  readonly problems: readonly Problem[];
  /** Equal for two programs that differ in nothing but their live numbers; what readings add to the builder later does not count. */
  readonly signature: string;
}

export interface LowerOptions {
  /** `live` keeps every literal a parameter; `frozen` folds them in. */
  readonly build: 'live' | 'frozen';
  /** Dials that are held at their value although the build is live. */
  readonly hold?: ReadonlySet<string>;
  /** Cues written out, key by key, for programs that stand alone: otherwise their keys are a table that is searched. */
  readonly writeCues?: boolean;
}

const RATE_WORDS: Record<Rate, string> = {
  once: 'never changes',
  frame: 'is the same all over it',
  vertex: 'is known at its vertices',
  pixel: 'differs from pixel to pixel',
};

class Lowering {
  readonly b: Builder;
  readonly params: Param[] = [];
  paramCount = 0;
  readonly problems: Problem[] = [];
  readonly strands = new Map<string, LoweredStrand>();
  private readonly dials = new Map<string, Dial>();

  constructor(
    private readonly effect: Effect,
    private readonly live: boolean,
    private readonly hold: ReadonlySet<string> = new Set(),
    private readonly writeCues = !live,
  ) {
    // A loop is short: its times are exact enough as they are.
    this.b = effect.loop === null ? growingBuilder() : new Builder();
    for (const dial of effect.dials) this.dials.set(`${dial.strand}.${dial.input}`, dial);
  }

  problem(strand: Strand | null, code: string, message: string, at?: number): void {
    this.problems.push({ strand: strand?.id ?? null, code, message, ...(at === undefined ? {} : { at }) });
  }

  private number(source: ParamSource, components: readonly number[], unit: Unit): Node {
    if (!this.live || this.isHeld(source)) return this.b.constant(...components);
    return this.b.param(this.param(source, components.length, unit), components.length);
  }

  /** @returns the first of its live numbers */
  private param(source: ParamSource, width: number, unit: Unit): number {
    const at = this.paramCount;
    this.params.push({ at, width, source, unit });
    this.paramCount += width;
    return at;
  }

  private isHeld(source: ParamSource): boolean {
    if (this.hold.size === 0 || source.from !== 'strand') return false;
    const dial = this.dials.get(`${source.strand}.${source.input}`);
    return dial !== undefined && this.hold.has(dial.id);
  }

  literal(value: Value, at: { strand: Strand; input: string } | { output: string }, unit: Unit): Port {
    const { b } = this;
    const source = (part: 'value' | 'rgb' | 'intensity'): ParamSource =>
      'strand' in at
        ? { from: 'strand', strand: at.strand.id, input: at.input, part }
        : { from: 'output', output: at.output, part };
    if (isColour(value)) {
      const rgb = componentsOf(value, 'rgb');
      const intensity = componentsOf(value, 'intensity');
      return {
        kind: 'rgb',
        node: b.mul(this.number(source('rgb'), rgb, ''), this.number(source('intensity'), intensity, '')),
      };
    }
    const components = componentsOf(value, 'value', unit);
    return {
      kind: kindOfWidth(components.length),
      node: this.number(source('value'), components, unit),
    };
  }

  /** A dial's value over time. */
  private cue(dial: Dial, unit: Unit): Port | null {
    const cue = this.effect.cues.find((c) => c.dial === dial.id);
    if (!cue) return null;
    const node = this.writeCues ? this.writtenCue(cue, unit) : this.searchedCue(cue, unit);
    return { node, kind: isColour(cue.keys[0]!.value) ? 'rgb' : kindOfWidth(widthOf(node.type)) };
  }

  /** Its keys as rows of live numbers: none of them, nor their order, is part of the program. */
  private searchedCue(cue: Cue, unit: Unit): Node {
    const { b } = this;
    const table = keyTable(cue, this.paramCount, unit);
    this.param({ from: 'keys', dial: cue.dial }, table.count * rowOf(table), unit);
    const time = b.leaf('time');
    const [from, to, kind, handles, before, after] = b.keysAround(time, table) as [Node, Node, Node, Node, Node, Node];
    const progress = b.composite('clamp', b.div(b.sub(time, from), b.sub(to, from)), 0, 1);
    const is = (name: keyof typeof EASE_KINDS) => b.op('eq', kind, EASE_KINDS[name]);
    const stepped = b.op('select', b.op('lt', progress, 1), 0, 1);
    const curved = b.call(cubicBezier, progress, handles);
    const eased = b.op('select', is('linear'), progress, b.op('select', is('step'), stepped, curved));
    return b.composite('mix', before, after, eased);
  }

  private writtenCue(cue: Cue, unit: Unit): Node {
    const { b } = this;
    const keys = cue.keys.map((key, k) => ({ key, k })).sort((p, q) => p.key.time - q.key.time);
    const part = (k: number, part: 'time' | 'value' | 'handles', components: number[], partUnit: Unit = '') =>
      this.number({ from: 'cue', dial: cue.dial, key: k, part }, components, partUnit);
    const times = keys.map(({ key, k }) => part(k, 'time', [key.time]));
    const values = keys.map(({ key, k }) => part(k, 'value', componentsOf(key.value, 'value', unit), unit));
    const time = b.leaf('time');
    let value = values[0]!;
    for (let k = 0; k + 1 < keys.length; k++) {
      const { key, k: at } = keys[k]!;
      const progress = b.composite('clamp', b.div(b.sub(time, times[k]!), b.sub(times[k + 1]!, times[k]!)), 0, 1);
      const eased =
        key.ease === 'linear'
          ? progress
          : key.ease === 'step'
            ? b.op('select', b.op('lt', progress, 1), 0, 1)
            : b.call(cubicBezier, progress, part(at, 'handles', easeHandles(key.ease)));
      value = b.op('select', b.op('lt', time, times[k]!), value, b.composite('mix', values[k]!, values[k + 1]!, eased));
    }
    return value;
  }

  /** What an input gives before it is fitted to its kind; undefined for an optional one that is absent. */
  private source(
    strand: Strand,
    name: string,
    record: InputRecord,
    input: Input | undefined,
    dial = this.dials.get(`${strand.id}.${name}`),
  ): Port | undefined {
    const unit = record.unit ?? '';
    if (isLink(input)) return this.follow(input);
    const cued = dial && this.cue(dial, unit);
    if (cued) return cued;
    if (input) {
      if (typeof input.value === 'object' && !Array.isArray(input.value) && !isColour(input.value)) {
        this.problem(strand, 'kind', `${strand.name}: ${name} takes ${this.takes(record)}, not this kind of value.`);
        return { node: this.b.constant(0), kind: '1' };
      }
      return this.literal(input.value, { strand, input: name }, unit);
    }
    if (record.optional || stopOf(name)) return undefined;
    if (typeof record.default === 'object' && 'leaf' in record.default) {
      const node = this.b.leaf(record.default.leaf);
      return { node, kind: kindOfWidth(widthOf(node.type)) };
    }
    const components = componentsOf(typeof record.default === 'number' ? record.default : [...record.default], 'value', unit);
    // A default is a live number too: the first drag of it must not change the program.
    const node = this.number({ from: 'strand', strand: strand.id, input: name, part: 'value' }, components, unit);
    return { node, kind: record.kind === 'rgb' ? 'rgb' : kindOfWidth(components.length) };
  }

  follow(link: Extract<Input, { from: string }>): Port {
    const strand = this.strands.get(link.from)!;
    const port = link.port === undefined ? strand.value : own(strand.ports, link.port)!;
    if (link.part === undefined) return port;
    const letters = /^[xyzw]+$/.test(link.part) ? 'xyzw' : 'rgba';
    const lanes = [...link.part].map((c) => Math.min(letters.indexOf(c), widthOf(port.node.type) - 1));
    const kind = port.kind === 'rgb' && lanes.length === 3 ? 'rgb' : kindOfWidth(lanes.length);
    return { node: this.b.pick(port.node, ...lanes), kind };
  }

  private takes(record: InputRecord): string {
    if (record.kind === 'any') return 'any number, vector or colour';
    if (typeof record.kind === 'string') return kindInWords(record.kind);
    return record.kind.map(kindInWords).join(' or ');
  }

  strand(strand: Strand): void {
    const operator = operatorOf(strand.op);
    const given: Record<string, Port> = {};
    for (const [name, record] of Object.entries(operator.inputs)) {
      const port = this.source(strand, name, record, strand.inputs?.[name]);
      if (port) given[name] = port;
    }
    const ports = strand.bypassed ? this.bypass(operator, given) : this.apply(strand, operator, given);
    this.strands.set(strand.id, { id: strand.id, name: strand.name, ports, value: ports[operator.outputs[0]!.id]! });
  }

  private bypass(operator: OperatorRecord, given: Record<string, Port>): Record<string, Port> {
    const main = mainInput(operator);
    const through = (main === undefined ? undefined : given[main]) ?? { node: this.b.constant(0), kind: '1' as Kind };
    return Object.fromEntries(operator.outputs.map((o) => [o.id, through]));
  }

  private apply(strand: Strand, operator: OperatorRecord, given: Record<string, Port>): Record<string, Port> {
    const { b } = this;
    const failures = this.problems.length;
    const nameOf = (name: string) => {
      const input = strand.inputs?.[name];
      return isLink(input) ? this.strands.get(input.from)!.name + (input.part ? `.${input.part}` : '') : name;
    };
    const free = Object.entries(operator.inputs).filter(([name, r]) => r.kind === 'any' && given[name]);
    const widest = Math.max(1, ...free.map(([name]) => widthOfKind(given[name]!.kind)));
    let unified: Kind = kindOfWidth(widest);
    const leader = free.find(([name]) => widthOfKind(given[name]!.kind) === widest);
    if (widest === 3 && free.some(([name]) => given[name]!.kind === 'rgb')) unified = 'rgb';
    const nodes: Record<string, Node> = {};
    const kinds: Record<string, Kind> = {};
    for (const [name, record] of Object.entries(operator.inputs)) {
      const port = given[name];
      if (!port) continue;
      const kind =
        record.kind === 'any'
          ? unified
          : typeof record.kind === 'string'
            ? record.kind
            : record.kind.includes(port.kind)
              ? port.kind
              : record.kind.find((k) => goesInto(port.kind, k));
      if (!kind || !goesInto(port.kind, kind)) {
        const other =
          record.kind === 'any' && leader
            ? `${nameOf(leader[0])} is ${kindInWords(given[leader[0]]!.kind)}`
            : `the ${operator.label} ${name} takes ${this.takes(record)}`;
        this.problem(strand, 'kind', `${nameOf(name)} is ${kindInWords(port.kind)}, ${other}.`);
        continue;
      }
      nodes[name] = b.widen(port.node, widthOfKind(kind));
      kinds[name] = kind;
    }
    const failed = this.problems.length > failures;
    const options = Object.fromEntries(
      Object.entries(operator.options).map(([name, o]) => [name, strand.options?.[name] ?? o.default]),
    );
    // What runs on has no loop to close.
    if (operator.options.over && this.effect.loop === null) options.over = operator.options.over.default;
    const context = failed ? null : this.context(strand, operator, options);
    const results = context ? operator.lower(context, nodes) : {};
    return Object.fromEntries(
      operator.outputs.map((o) => {
        const own = results[o.id];
        const kind =
          o.kind === 'any'
            ? unified
            : o.kind === 'own'
              ? kindOfWidth(own ? widthOf(own.type) : 1)
              : typeof o.kind === 'function'
                ? o.kind(kinds)
                : o.kind;
        return [o.id, { kind, node: results[o.id] ?? b.widen(0, widthOfKind(kind)) }];
      }),
    );
  }

  /** What an operator is given besides its inputs. */
  private context(strand: Strand, operator: OperatorRecord, options: Record<string, string>): LowerContext {
    const texts: Record<string, string> = {};
    const ramps: Record<string, RampNodes> = {};
    const shared: Record<string, Node | undefined> = {};
    const images: Record<string, LowerContext['images'][string]> = {};
    for (const [name, record] of Object.entries(operator.literals)) {
      const given = strand.inputs?.[name];
      const value = given && !isLink(given) ? given.value : undefined;
      if (record.form === 'image' && isImage(value)) {
        const asset = own(this.effect.assets, value.asset);
        if (asset) images[name] = { asset: pictureKey(asset), size: [asset.size[0] ?? 1, asset.size[1] ?? 1] };
        else this.problem(strand, 'image', `${strand.name}: the image "${value.asset}" is not among the effect’s files.`);
      }
      if (record.form === 'ramp') ramps[name] = this.ramp(strand, name);
      else if (record.form === 'text' || record.form === 'shared')
        texts[name] = isWritten(value) ? value.text : ((record.default as string | null) ?? '');
      if (record.form !== 'shared') continue;
      const found = this.effect.shared.find((v) => v.id === texts[name] || v.name === texts[name]);
      if (found && !isRamp(found.value) && !isWritten(found.value)) shared[name] = this.sharedValue(found.id, found.value);
    }
    const fail = (code: string, message: string, at?: number) => {
      this.problem(strand, code, `${strand.name}: ${message}`, at);
      return {};
    };
    return { b: this.b, options, texts, ramps, shared, images, fail };
  }

  private sharedValue(id: string, value: Value): Node | undefined {
    if (typeof value === 'object' && !Array.isArray(value) && !isColour(value)) return undefined;
    const part = (which: 'value' | 'rgb' | 'intensity') => {
      const components = componentsOf(value, which);
      return this.number({ from: 'shared', shared: id, part: which }, components, '');
    };
    return isColour(value) ? this.b.mul(part('rgb'), part('intensity')) : part('value');
  }

  private ramp(strand: Strand, literal: string): RampNodes {
    const { stops, space, interpolation } = rampOf(strand, literal);
    const stopInput = (k: number, part: 'place' | 'colour', width: number): Node => {
      const name = `${literal}.${k}.${part}`;
      const record = inputRecord(operatorOf(strand.op), name)!;
      const given = strand.inputs?.[name];
      const dial =
        this.dials.get(`${strand.id}.${name}`) ??
        this.dials.get(`${strand.id}.${literal}.${k}.${part === 'place' ? 'at' : 'rgb'}`);
      const port = given || dial ? this.source(strand, name, record, given, dial) : undefined;
      if (port && goesInto(port.kind, record.kind as Kind)) return this.b.widen(port.node, width);
      if (port)
        this.problem(strand, 'kind', `${strand.name}: ${name} takes ${this.takes(record)}, not ${kindInWords(port.kind)}.`);
      const { at, rgb } = stops[k]!;
      const components = part === 'place' ? [at] : [...rgb];
      return this.number({ from: 'strand', strand: strand.id, input: name, part: 'value' }, components, '');
    };
    return {
      stops: stops.map((_, k) => ({
        place: stopInput(k, 'place', 1),
        colour: stopInput(k, 'colour', 3),
      })),
      space,
      interpolation,
    };
  }

  output(name: OutputName, input: Input): Port | null {
    const { kind } = outputRecord(name);
    if (!isLink(input) && typeof input.value === 'object' && !Array.isArray(input.value) && !isColour(input.value)) {
      this.problem(null, 'kind', `The output ${name} takes ${kindInWords(kind)}, not this kind of value.`);
      return null;
    }
    const port = isLink(input) ? this.follow(input) : this.literal(input.value, { output: name }, '');
    if (!goesInto(port.kind, kind)) {
      const what = isLink(input) ? this.strands.get(input.from)!.name : 'the value';
      this.problem(null, 'kind', `${what} is ${kindInWords(port.kind)}, the output ${name} takes ${kindInWords(kind)}.`);
      return null;
    }
    return { kind, node: this.b.widen(port.node, widthOfKind(kind)) };
  }
}

/** An output that is computed once a frame cannot read a place of the surface; the strand that does is named. */
function checkPlaces(lowering: Lowering, effect: Effect, outputs: ReadonlyMap<OutputName, Port>): void {
  for (const [name, port] of outputs) {
    const allowed = outputRecord(name).rate;
    if (allowed === 'pixel') continue;
    const found = rates([port.node]);
    if (costlier(found.get(port.node)!, allowed) === allowed) continue;
    const reader = strandsOf(effect).find((s) => {
      const { node } = lowering.strands.get(s.id)!.value;
      return found.has(node) && costlier(found.get(node)!, allowed) !== allowed;
    });
    lowering.problem(
      reader ?? null,
      'place',
      `${reader?.name ?? 'A strand'} reads the surface, and the output ${name} takes only what ${RATE_WORDS[allowed]}.`,
    );
  }
}

/** Lowers a document that has been read and validated, with any variant already applied. */
export function lower(effect: Effect, { build, hold, writeCues }: LowerOptions): Program {
  const lowering = new Lowering(effect, build === 'live', hold, writeCues);
  for (const strand of strandsOf(effect)) lowering.strand(strand);
  const outputs = new Map<OutputName, Port>();
  for (const [name, input] of Object.entries(effect.outputs)) {
    if (!input) continue;
    const port = lowering.output(name as OutputName, input);
    if (port) outputs.set(name as OutputName, port);
  }
  checkPlaces(lowering, effect, outputs);
  const { b: builder, strands, params, paramCount, problems } = lowering;
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
