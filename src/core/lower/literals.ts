/** What a file writes down becomes nodes: numbers that stay live, cues, ramps, images, texts and shared dials. */
import { own } from '../base/wholesome.js';
import { EASE_KINDS, rowOf } from '../base/keys.js';
import { kindOfWidth } from '../base/kinds.js';
import { handlesOf, numbered, wordsOf } from '../effect/cues.js';
import { isColour, isImage, isLink, isRamp, isWritten, pictureKey } from '../effect/schema.js';
import type { Beyond, Cue, Dial, Effect, Strand, Trigger, Value } from '../effect/schema.js';
import { NEVER, REMEMBERED, SAME_MOMENT, heardOf, triggerOf } from '../effect/triggers.js';
import type { Builder } from '../ir/builder.js';
import { cubicBezier } from '../ir/kernels/easing.js';
import { widthOf, type Node } from '../ir/types.js';
import { fromOklab } from '../operators/oklab.js';
import type { FiringNodes, LowerContext, OperatorRecord, Unit } from '../operators/record.js';
import { LONG_AGO, componentsOf, firingTable, keyComponents, keyTable, type Param, type ParamSource } from './params.js';
import type { Complain, Port } from './program.js';

type Looked = Pick<LowerContext, 'texts' | 'ramps' | 'shared' | 'images' | 'triggers'>;
const NOTHING: Looked = { texts: {}, ramps: {}, shared: {}, images: {}, triggers: {} };

/** Whose literal it is. */
export type At = { readonly strand: string; readonly input: string } | { readonly output: string };
type Part = 'value' | 'rgb' | 'intensity';

/** A value that numbers can be made of: no ramp, text or image. */
export const isNumeric = (value: Value): boolean => typeof value !== 'object' || Array.isArray(value) || isColour(value);

export interface LiteralOptions {
  /** Every literal stays a parameter; else it is folded in. */
  readonly live: boolean;
  /** Dials that are held at their value although the build is live. */
  readonly hold: ReadonlySet<string>;
  /** Cues written out, key by key; otherwise their keys are a table that is searched. */
  readonly writeCues: boolean;
}

/** Where live numbers stand, by what they are of: the same for as long as the places are kept. */
export class ParamPlaces {
  private readonly places: Map<string, number> | null;
  /** How many there are room for. */
  count = 0;

  /** @param kept for a sheet that is lowered again */
  constructor(kept: boolean) {
    this.places = kept ? new Map() : null;
  }

  of(reader: string, source: ParamSource, width: number): number {
    const at = this.count;
    if (this.places) {
      const key = `${reader} ${keyOf(source, width)}`;
      const known = this.places.get(key);
      if (known !== undefined) return known;
      this.places.set(key, at);
    }
    this.count += width;
    return at;
  }
}

function keyOf(source: ParamSource, width: number): string {
  switch (source.from) {
    case 'strand':
      return `${source.strand}.${source.input} ${source.part} ${width}`;
    case 'output':
      return `=${source.output} ${source.part} ${width}`;
    case 'cue':
      return `cue ${source.dial} ${source.key} ${source.part} ${width}`;
    case 'keys':
      return `keys ${source.dial} ${width}`;
    case 'shared':
      return `shared ${source.shared} ${source.part} ${width}`;
    case 'firings':
      return `firings ${source.trigger} ${source.closes} ${width}`;
    case 'duration':
      return `duration ${source.trigger}`;
    case 'loop':
      return 'loop';
  }
}

/** The time at which a cue is read: beyond its keys it begins again, or goes to and fro, where it is to. */
function withinKeys(b: Builder, { keys, before = 'hold', after = 'hold' }: Cue, first: Node, last: Node): Node {
  const time = b.leaf('time');
  if (keys.length < 2 || (before === 'hold' && after === 'hold')) return time;
  const span = b.op('max', b.sub(last, first), 1e-6);
  const laps = b.div(b.sub(time, first), span);
  const folded = (how: Beyond): Node => {
    if (how === 'hold') return time;
    const lap = b.composite('fract', how === 'loop' ? laps : b.mul(laps, 0.5));
    // To and fro: up to the middle of two laps, and back.
    const way = how === 'loop' ? lap : b.sub(1, b.op('abs', b.sub(b.mul(lap, 2), 1)));
    return b.add(first, b.mul(way, span));
  };
  const early = b.op('select', b.op('lt', time, first), folded(before), time);
  return b.op('select', b.op('lt', last, time), folded(after), early);
}

export class Literals {
  readonly params: Param[] = [];
  /** Who asks: what several strands read has a place for each of them. */
  reader = '';
  private readonly dials = new Map<string, Dial>();

  constructor(
    private readonly b: Builder,
    private readonly effect: Effect,
    private readonly options: LiteralOptions,
    private readonly places: ParamPlaces,
  ) {
    for (const dial of effect.dials) this.dials.set(`${dial.strand}.${dial.input}`, dial);
  }

  /** How many live numbers there are room for. */
  get paramCount(): number {
    return this.places.count;
  }

  dialOf(strand: string, input: string): Dial | undefined {
    return this.dials.size === 0 ? undefined : this.dials.get(`${strand}.${input}`);
  }

  /** Numbers of the document: live, or folded in. */
  number(source: ParamSource, components: readonly number[], unit: Unit): Node {
    if (!this.options.live || this.isHeld(source)) return this.b.constant(...components);
    return this.b.param(this.param(source, components.length, unit), components.length);
  }

  /** @returns the first of its live numbers */
  private param(source: ParamSource, width: number, unit: Unit): number {
    const at = this.places.of(this.reader, source, width);
    this.params.push({ at, width, source, unit });
    return at;
  }

  private isHeld(source: ParamSource): boolean {
    const { hold } = this.options;
    if (hold.size === 0 || source.from !== 'strand') return false;
    const dial = this.dialOf(source.strand, source.input);
    return dial !== undefined && hold.has(dial.id);
  }

  /** @param value `isNumeric` */
  literal(value: Value, at: At, unit: Unit): Port {
    const source = (part: Part): ParamSource =>
      'strand' in at ? { from: 'strand', strand: at.strand, input: at.input, part } : { from: 'output', output: at.output, part };
    if (isColour(value)) {
      const rgb = this.number(source('rgb'), componentsOf(value, 'rgb'), '');
      const intensity = this.number(source('intensity'), componentsOf(value, 'intensity'), '');
      return { kind: 'rgb', node: this.b.mul(rgb, intensity) };
    }
    const components = componentsOf(value, 'value', unit);
    return { kind: kindOfWidth(components.length), node: this.number(source('value'), components, unit) };
  }

  /** A dial's value over time; null where no cue has it. */
  cue(dial: Dial, unit: Unit): Port | null {
    const found = this.cueOf(dial);
    if (!found) return null;
    const cue = numbered(found);
    const eased = this.options.writeCues ? this.writtenCue(cue, unit) : this.searchedCue(cue, unit);
    if (!isColour(cue.keys[0]!.value)) return { node: eased, kind: kindOfWidth(widthOf(eased.type)) };
    // An easing that overshoots may leave less than no light of a channel: the dial shows none, and so does the picture.
    const shines = fromOklab(this.b, this.b.split(eased) as [Node, Node, Node]);
    return { node: this.b.op('max', shines, this.b.constant(0, 0, 0)), kind: 'rgb' };
  }

  /** The words that an option's cue goes between; null where no cue has it. */
  words(dial: Dial | undefined): readonly string[] | null {
    const cue = dial && this.cueOf(dial);
    return cue ? wordsOf(cue) : null;
  }

  private cueOf({ id }: Dial): Cue | undefined {
    return this.effect.cues.find((c) => c.dial === id);
  }

  /** Its keys as rows of live numbers: none of them, nor their order, is part of the program. */
  private searchedCue(cue: Cue, unit: Unit): Node {
    const { b } = this;
    const rows = keyTable(cue, 0, unit);
    const table = { ...rows, at: this.param({ from: 'keys', dial: cue.dial }, rows.count * rowOf(rows), unit) };
    const ends = [0, rows.count - 1].map((k) => b.param(table.at + k * rowOf(rows), 1)) as [Node, Node];
    const time = withinKeys(b, cue, ...ends);
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
    const values = keys.map(({ key, k }) => part(k, 'value', keyComponents(key.value, unit), unit));
    const time = withinKeys(b, cue, times[0]!, times.at(-1)!);
    let value = values[0]!;
    for (let k = 0; k + 1 < keys.length; k++) {
      const { key, k: at } = keys[k]!;
      const progress = b.composite('clamp', b.div(b.sub(time, times[k]!), b.sub(times[k + 1]!, times[k]!)), 0, 1);
      const eased =
        key.ease === 'linear'
          ? progress
          : key.ease === 'step'
            ? b.op('select', b.op('lt', progress, 1), 0, 1)
            : b.call(cubicBezier, progress, part(at, 'handles', [...handlesOf(key.ease)]));
      value = b.op('select', b.op('lt', time, times[k]!), value, b.composite('mix', values[k]!, values[k + 1]!, eased));
    }
    return value;
  }

  shared(id: string, value: Value): Node | undefined {
    if (!isNumeric(value)) return undefined;
    const part = (which: Part) => {
      const components = componentsOf(value, which);
      return this.number({ from: 'shared', shared: id, part: which }, components, '');
    };
    return isColour(value) ? this.b.mul(part('rgb'), part('intensity')) : part('value');
  }

  /**
   * What only the file can give an operator.
   * @param ramp makes the nodes of a ramp, whose stops are inputs
   */
  given(
    strand: Strand,
    operator: OperatorRecord,
    ramp: (literal: string) => LowerContext['ramps'][string],
    complain: Complain,
  ): Looked {
    const { literals } = operator;
    // Most have none.
    if (Object.keys(literals).length === 0) return NOTHING;
    const texts: Record<string, string> = {};
    const ramps: Record<string, LowerContext['ramps'][string]> = {};
    const shared: Record<string, Node | undefined> = {};
    const images: Record<string, LowerContext['images'][string]> = {};
    const triggers: Record<string, LowerContext['triggers'][string]> = {};
    for (const [name, record] of Object.entries(literals)) {
      const given = strand.inputs?.[name];
      const value = given && !isLink(given) ? given.value : undefined;
      if (record.form === 'ramp') ramps[name] = ramp(name);
      if (record.form === 'image' && isImage(value)) images[name] = this.image(strand, value.asset, complain);
      if (record.form === 'text' || record.form === 'shared' || record.form === 'trigger' || record.form === 'motif')
        texts[name] = isWritten(value) ? value.text : ((record.default as string | null) ?? '');
      if (record.form === 'trigger') triggers[name] = this.trigger(texts[name]!);
      if (record.form !== 'shared') continue;
      const found = this.effect.shared.find((v) => v.id === texts[name] || v.name === texts[name]);
      if (found && !isRamp(found.value) && !isWritten(found.value)) shared[name] = this.shared(found.id, found.value);
    }
    return { texts, ramps, shared, images, triggers };
  }

  private trigger(named: string): LowerContext['triggers'][string] {
    const trigger = triggerOf(this.effect, named);
    if (!trigger) return undefined;
    return (closes) => {
      const last = this.options.writeCues ? this.writtenFirings(trigger, closes) : this.searchedFirings(trigger, closes);
      const time = this.b.leaf('time');
      return {
        ages: last.map(([at]) => this.b.op('min', this.b.sub(time, at), NEVER)) as unknown as FiringNodes['ages'],
        places: last.map(([, place]) => place) as unknown as FiringNodes['places'],
        duration: this.number({ from: 'duration', trigger: trigger.id }, [trigger.duration], 's'),
      };
    };
  }

  /** When and where the last firings were, the latest first: each is looked for just before the one after it. */
  private searchedFirings(trigger: Trigger, closes: boolean): [Node, Node][] {
    const { b } = this;
    const rows = firingTable(trigger, closes, 0);
    const table = { ...rows, at: this.param({ from: 'firings', trigger: trigger.id, closes }, rows.count * rowOf(rows), 's') };
    let before: Node = b.leaf('time');
    return Array.from({ length: REMEMBERED }, () => {
      const [at, , , , place] = b.keysAround(before, table) as [Node, Node, Node, Node, Node];
      before = b.sub(at, SAME_MOMENT / 2);
      return [at, place];
    });
  }

  /** The same for a program that stands alone: firing after firing. */
  private writtenFirings(trigger: Trigger, closes: boolean): [Node, Node][] {
    const { b } = this;
    const none = (): [Node, Node] => [b.constant(LONG_AGO), b.constant(0, 0, 0)];
    let last = Array.from({ length: REMEMBERED }, none);
    for (const { at, place } of heardOf(trigger, closes ? this.effect.loop : null)) {
      const been = b.op('le', b.constant(at), b.leaf('time'));
      const now: [Node, Node] = [b.constant(at), b.constant(...(place ?? [0, 0, 0]))];
      const known = last;
      last = known.map((old, k) => {
        const next = k === 0 ? now : known[k - 1]!;
        return [b.op('select', been, next[0], old[0]), b.op('select', been, next[1], old[1])];
      });
    }
    return last;
  }

  private image(strand: Strand, key: string, complain: Complain): LowerContext['images'][string] {
    const asset = own(this.effect.assets, key);
    if (asset) return { asset: pictureKey(asset), size: [asset.size[0] ?? 1, asset.size[1] ?? 1] };
    complain(strand.id, 'image', `${strand.name}: the image "${key}" is not among the effect’s files.`);
    return undefined;
  }
}
