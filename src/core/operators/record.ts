/** The shape of an operator's record: everything the rest of Wispen knows about an operator stands in it. */
import { widthOfKind, type Kind } from '../base/kinds.js';
import type { Builder } from '../ir/builder.js';
import type { Leaf } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';

export const FAMILIES = [
  'Where and when',
  'Values',
  'Arithmetic',
  'Shapes of time',
  'Noise',
  'Patterns',
  'Masks',
  'Colour',
  'Coordinates',
  'Surface',
] as const;
export type Family = (typeof FAMILIES)[number];

/** Units shown beside a number. Angles are degrees in files and on screen and become radians in lowering. */
export type Unit = '' | 'm' | 's' | 'Hz' | 'deg' | 'rad' | 'turns' | 'x' | 'stops' | 'm/s';

/**
 * The kinds an input takes: one kind; `any`, unified with every other `any` input of the strand to the widest;
 * or a list of kinds of which the linked strand's is used as it is.
 */
export type InputKind = Kind | 'any' | readonly Kind[];

/**
 * What a value is about, where that says what should read it: seconds that pass, a place of a pattern or on the stage, a
 * way something faces or goes, a surface's normal, metres between two things, a share of about 0..1, a colour, a number
 * that only tells copies apart, and how far something is moved aside.
 */
export type Meaning = 'time' | 'place' | 'direction' | 'normal' | 'distance' | 'mask' | 'colour' | 'random' | 'shift';

export interface InputRecord {
  /** What it is called on screen, where its name does not say. */
  readonly label?: string;
  readonly kind: InputKind;
  /** Used when the file gives nothing: a number, components, or a place's value. */
  readonly default: number | readonly number[] | { readonly leaf: Leaf };
  readonly soft: readonly [number, number];
  readonly unit?: Unit;
  /** Absent is a meaning of its own, and giving a value changes the program: `churn`, `width`. */
  readonly optional?: boolean;
  /**
   * What a new strand reads there by itself; what rests on a place wants its like. `number`: any single number that is no
   * share, such as kelvins; an empty list: nothing. Absent: whatever the strand works on.
   */
  readonly wants?: Meaning | 'number' | readonly (Meaning | 'number')[];
  /** Another input that takes this one's place where it is given. */
  readonly unless?: string;
  /** A literal here is edited as hue and intensity, a vector, or a plain number. */
  readonly literal?: 'number' | 'vector' | 'colour';
  readonly note: string;
}

/** What only the file can give, never a strand: a ramp's stops, a written pattern, a formula, which image, which trigger. */
export interface LiteralRecord {
  readonly form: 'ramp' | 'text' | 'image' | 'shared' | 'trigger' | 'motif';
  /** The value when the file says nothing; null for none. */
  readonly default: Ramp | string | null;
  readonly note: string;
}

export interface Ramp {
  readonly stops: readonly { readonly at: number; readonly rgb: readonly [number, number, number] }[];
  readonly space: 'linear' | 'oklab';
  readonly interpolation: 'linear' | 'smooth' | 'step';
}

export interface RampNodes extends Pick<Ramp, 'space' | 'interpolation'> {
  readonly stops: readonly { readonly place: Node; readonly colour: Node }[];
}

export interface OptionRecord {
  readonly values: readonly string[];
  readonly default: string;
  readonly note: string;
}

export interface OutputRecord {
  readonly id: string;
  /** What it is called on screen, where its id does not say. */
  readonly label?: string;
  /** `any`: the kind the `any` inputs were unified to. `own`: as wide as it comes out. A function: from the kinds of the inputs given. */
  readonly kind: Kind | 'any' | 'own' | ((given: Readonly<Record<string, Kind>>) => Kind);
  readonly means?: Meaning;
  readonly note: string;
}

/** What an effect hears of a trigger: its last four firings, the latest first. */
export interface FiringNodes {
  /** Seconds since each, 1e6 where there was none. */
  readonly ages: readonly [Node, Node, Node, Node];
  /** Where each was, in the prop's own space. */
  readonly places: readonly [Node, Node, Node, Node];
  /** Seconds that what it sets off lasts. */
  readonly duration: Node;
}

export interface LowerContext {
  readonly b: Builder;
  readonly options: Readonly<Record<string, string>>;
  readonly texts: Readonly<Record<string, string>>;
  /** Images by the literal that names them: its content's name, and width and height in texels. */
  readonly images: Readonly<Record<string, { readonly asset: string; readonly size: readonly [number, number] } | undefined>>;
  readonly ramps: Readonly<Record<string, RampNodes>>;
  /** Values that the library shares, by the literal that names them; undefined where there is none of that name. */
  readonly shared: Readonly<Record<string, Node | undefined>>;
  /** Firings by the literal that names their trigger; undefined where there is none. @param closes the last lap's are heard too */
  readonly triggers: Readonly<Record<string, ((closes: boolean) => FiringNodes) | undefined>>;
  /** Says what is wrong, at the strand; its readers then get 0. @param at a character of a text, counted from 0 @returns no outputs */
  readonly fail: (code: string, message: string, at?: number) => Readonly<Record<string, Node>>;
}

/** How a strand of an operator moves, by its nature: what the question is answered from whether it repeats. */
export type Motion =
  /** It is the time itself. */
  | { readonly kind: 'clock' }
  /** The same again after one lap of an input that grows: so much, or as much as another input says. */
  | { readonly kind: 'laps'; readonly input: string; readonly lap: number | { readonly input: string } }
  /** Follows its `time` at a rate of its own; so many steps of it are one lap. */
  | {
      readonly kind: 'rated';
      readonly rate: string;
      readonly steps?: (texts: Readonly<Record<string, string>>) => number;
    }
  /** Travelling waves, each the same again after its length over its speed. */
  | { readonly kind: 'waves'; readonly lengths: string; readonly speeds: string }
  /** What keys or events set off: begins anew with the loop. */
  | { readonly kind: 'fired' }
  /** Never the same again while that input grows, unless it is asked to close; `turns`: but after whole numbers of it. */
  | { readonly kind: 'wanders'; readonly by: string; readonly turns?: true };

/** What an input must keep to for the operator to mean anything. */
export type Domain = { readonly input: string; readonly code: string } & (
  { readonly least: number; readonly says: (name: string, low: string) => string } | { readonly never: number }
);

/** How an operator has part in brightness: numbers that all of its value is proportional to, or a colour that is one. */
export type Brightness =
  { readonly factors: readonly string[]; readonly through: readonly string[] } | { readonly source: string };

/** The standard node of MaterialX 1.39 that means the same, and what its inputs are called there. */
export interface InMaterialX {
  readonly node: string;
  readonly inputs: Readonly<Record<string, string>>;
}

/** What shows an operator best: values, or `@` and what pictures are made of (hills, ramp, rainbow ...). */
export type Picture = Readonly<Record<string, unknown>>;

export interface OperatorRecord {
  readonly id: string;
  readonly label: string;
  readonly family: Family;
  /** One sentence, in an artist's words. */
  readonly summary: string;
  readonly inputs: Readonly<Record<string, InputRecord>>;
  readonly literals: Readonly<Record<string, LiteralRecord>>;
  readonly options: Readonly<Record<string, OptionRecord>>;
  /** The first is what `{ "from": id }` means. */
  readonly outputs: readonly OutputRecord[];
  readonly source?: string;
  /** Printed between its inputs in a row, for operators of two inputs. */
  readonly sign?: string;
  /** Words people may type when they look for it. */
  readonly keywords?: readonly string[];
  readonly motion?: Motion;
  /** Gradient noise along its input `position`: 0 at every whole number (Perlin 2002). */
  readonly zeroAtCells?: true;
  /** The input that sets how fast it moves: where that is 0, it stands still. */
  readonly pace?: string;
  /** What its value means, where its family and kind do not say it (`outputMeaning`). `kept`: what it works on means. */
  readonly means?: Meaning | 'kept';
  readonly domain?: Domain;
  readonly brightness?: Brightness;
  /** The input that it hands on when it is bypassed, where that cannot be told by its name. */
  readonly hands?: string;
  /** What it looks at besides its inputs, for advice that names the strand that does. */
  readonly looks?: 'behind' | 'angle' | 'paint';
  /** Its number is a distance in metres. */
  readonly distance?: true;
  /** Values of inputs that a new strand begins with, where its defaults would show nothing. */
  readonly initial?: Readonly<Record<string, unknown>>;
  readonly picture?: Picture;
  readonly materialx?: InMaterialX;
  /** Grows without bound, or jumps where the steps before it differ in their last bit: tests of tame sheets leave it out. */
  readonly wild?: true;
  /** From IR nodes of the inputs (widened, converted to core units; optional ones may be undefined) to the outputs. */
  readonly lower: (context: LowerContext, inputs: Readonly<Record<string, Node>>) => Readonly<Record<string, Node>>;
}

/** How an input takes a value of a kind: of its own width, a number for several, or not at all. */
export function takesAs({ kind }: Pick<InputRecord, 'kind'>, given: Kind): 'as it is' | 'widened' | 'no' {
  if (kind === 'any') return 'as it is';
  const kinds = typeof kind === 'string' ? [kind] : kind;
  if (kinds.some((k) => widthOfKind(k) === widthOfKind(given))) return 'as it is';
  return given === '1' ? 'widened' : 'no';
}

/** The place that an input rests on where nothing is given to it; undefined where it rests on numbers. */
export const restsOn = ({ default: rest }: Pick<InputRecord, 'default'>): Leaf | undefined =>
  typeof rest === 'object' && 'leaf' in rest ? rest.leaf : undefined;

/** Whether a value of the artist's own may be meant for an input without its name: not where it rests on a place, unless a number is one. */
export const takesNumbers = (record: Pick<InputRecord, 'default' | 'wants'>): boolean =>
  restsOn(record) === undefined || [record.wants].flat().includes('number');

/** A value of the artist's own, which nothing is to be linked to. */
export const isConstant = ({ literal }: InputRecord, { family }: Pick<OperatorRecord, 'family'>): boolean =>
  family === 'Values' && literal !== undefined;

/** The input that a strand works on: what a new one is fed, what a bypassed or deleted one lets through. */
export function mainInput({ inputs }: Pick<OperatorRecord, 'inputs'>): string | undefined {
  return 'in' in inputs ? 'in' : Object.keys(inputs)[0];
}

/** Inputs that an operation works on and gives something of the same kind for. */
const WORKED_ON = ['in', 'a', 'uv', 'mask'] as const;

/**
 * The input that a bypassed strand hands on, where it is of the kind of the result. Undefined for what makes something of
 * its own: values, patterns, noises, masks, waves.
 */
export function handedOn({ inputs, family, hands }: Pick<OperatorRecord, 'inputs' | 'family' | 'hands'>): string | undefined {
  if (hands !== undefined) return hands;
  if (family === 'Patterns' || family === 'Values') return undefined;
  return WORKED_ON.find((name) => Object.hasOwn(inputs, name));
}

export interface OperatorDraft extends Omit<OperatorRecord, 'options' | 'outputs' | 'literals'> {
  readonly literals?: OperatorRecord['literals'];
  readonly options?: OperatorRecord['options'];
  readonly outputs?: OperatorRecord['outputs'];
}

/** One output named `value` of the unified kind is the rule; records state only what differs. */
export const operator = (draft: OperatorDraft): OperatorRecord => ({
  options: {},
  literals: {},
  outputs: [{ id: 'value', kind: 'any', note: 'the result' }],
  ...draft,
});

/** One stop of a ramp as an input of its own: `stops.0.place`, `stops.0.colour`; `at` and `rgb` mean the same. */
export function stopOf(
  input: string,
): { readonly literal: string; readonly stop: number; readonly part: 'place' | 'colour' } | null {
  const match = /^(\w+)\.(\d{1,2})\.(place|colour|at|rgb)$/.exec(input);
  if (!match) return null;
  const [, literal, stop, part] = match as unknown as [string, string, string, string];
  return { literal, stop: Number(stop), part: part === 'place' || part === 'at' ? 'place' : 'colour' };
}

/** What an input is called on screen: `stop 1 place`, or as in the file. */
export function inputLabel(input: string): string {
  const stop = stopOf(input);
  return stop ? `stop ${stop.stop + 1} ${stop.part}` : input;
}

export const MAX_STOPS = 32;

const STOP_INPUTS: Readonly<Record<'place' | 'colour', InputRecord>> = {
  place: { kind: '1', default: 0, soft: [0, 1], note: 'where along the ramp' },
  colour: { kind: 'rgb', default: [0, 0, 0], soft: [0, 1], literal: 'colour', note: 'the colour there' },
};

/** An input by the name it has in a file, a ramp's stops among them. */
export function inputRecord(operator: Pick<OperatorRecord, 'inputs' | 'literals'>, name: string): InputRecord | undefined {
  const stop = stopOf(name);
  return operator.inputs[name] ?? (stop && operator.literals[stop.literal]?.form === 'ramp' ? STOP_INPUTS[stop.part] : undefined);
}
