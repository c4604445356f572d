/** Edits of a ramp's stops. Dials, cues and links of a stop go with it. */
import { operatorOf } from '../operators/catalogue.js';
import { linearOf, oklabOf, type Row } from '../base/oklab.js';
import { MAX_STOPS, stopOf, type Ramp } from '../operators/record.js';
import { strandOf } from './edits.js';
import { factorOf, isColour, isLink, isRamp, type Effect, type Strand, type Value } from './schema.js';

interface At {
  readonly id: string;
  readonly literal: string;
}
type Written = Extract<Value, { stops: unknown }>;

/** The ramp in the draft, written out where it rested on its default. */
function rampIn(strand: Strand, literal: string): Written {
  const given = strand.inputs?.[literal];
  if (given && !isLink(given) && isRamp(given.value)) return given.value;
  const made = structuredClone(operatorOf(strand.op).literals[literal]!.default) as Written;
  (strand.inputs ??= {})[literal] = { value: made };
  return made;
}

export function changeRamp(
  draft: Effect,
  { id, literal, change }: At & { change: Partial<Pick<Ramp, 'space' | 'interpolation'>> },
): void {
  Object.assign(rampIn(strandOf(draft, id), literal), change);
}

/** Inputs and dials of the stops from `from` on get the number `by` further; those of `gone` are dropped. */
function renumber(draft: Effect, strand: Strand, literal: string, from: number, by: number, gone: number | null): void {
  const next = (input: string): string | null => {
    const stop = stopOf(input);
    if (!stop || stop.literal !== literal) return input;
    if (stop.stop === gone) return null;
    return stop.stop >= from ? `${literal}.${stop.stop + by}.${stop.part}` : input;
  };
  const inputs = Object.entries(strand.inputs ?? {}).flatMap(([name, value]) => {
    const key = next(name);
    return key === null ? [] : [[key, value] as const];
  });
  if (inputs.length > 0) strand.inputs = Object.fromEntries(inputs);
  else delete strand.inputs;
  const lost = new Set(draft.dials.filter((d) => d.strand === strand.id && next(d.input) === null).map((d) => d.id));
  draft.dials = draft.dials.filter((d) => !lost.has(d.id));
  draft.cues = draft.cues.filter((c) => !lost.has(c.dial));
  for (const v of draft.variants) for (const key of Object.keys(v.values)) if (lost.has(key)) delete v.values[key];
  for (const d of draft.dials) if (d.strand === strand.id) d.input = next(d.input)!;
}

/** A stop half way to the next, of the colour half way between. */
export function addStop(draft: Effect, { id, literal, after }: At & { after: number }): void {
  const strand = strandOf(draft, id);
  const ramp = rampIn(strand, literal);
  if (ramp.stops.length >= MAX_STOPS) return;
  const here = ramp.stops[after]!;
  const there = ramp.stops[after + 1] ?? { at: Math.max(1, here.at), rgb: here.rgb };
  const mix = (a: number, b: number) => Number(((a + b) / 2).toFixed(4));
  renumber(draft, strand, literal, after + 1, 1, null);
  ramp.stops.splice(after + 1, 0, {
    at: mix(here.at, there.at),
    rgb: [mix(here.rgb[0], there.rgb[0]), mix(here.rgb[1], there.rgb[1]), mix(here.rgb[2], there.rgb[2])],
  });
}

/** A ramp's stops as their own inputs have them; what is linked is as the ramp says. */
function turned({ inputs = {} }: Strand, literal: string, { stops }: Pick<Ramp, 'stops'>): Ramp['stops'] {
  const valueOf = (name: string): Value | undefined => {
    const input = inputs[name];
    return input && !isLink(input) ? input.value : undefined;
  };
  return stops.map(({ at, rgb }, k) => {
    const [place, colour] = [valueOf(`${literal}.${k}.place`), valueOf(`${literal}.${k}.colour`)];
    const three = isColour(colour)
      ? colour.rgb.map((v) => v * factorOf(colour.intensity, colour.unit))
      : Array.isArray(colour)
        ? colour
        : rgb;
    return { at: typeof place === 'number' ? place : at, rgb: three as unknown as Row };
  });
}

/** The colour of a ramp at a place, between its stops as they stand in their order. */
function colourAt({ stops, space, interpolation }: Ramp, at: number, after: number): [number, number, number] {
  const here = stops[after];
  const there = stops[after + 1];
  if (!here || !there || interpolation === 'step') return [...(here ?? stops[0]!).rgb];
  const even = there.at > here.at ? Math.max(0, Math.min(1, (at - here.at) / (there.at - here.at))) : 0;
  const share = interpolation === 'smooth' ? even * even * (3 - 2 * even) : even;
  const between = (a: Row, b: Row): Row => a.map((v, k) => v + (b[k]! - v) * share) as unknown as Row;
  const [a, b] = [here.rgb as Row, there.rgb as Row];
  const mixed = space === 'oklab' ? linearOf(between(oklabOf(a), oklabOf(b))) : between(a, b);
  return mixed.map((v) => Number(v.toFixed(4))) as [number, number, number];
}

/** A stop at a place, of the colour that the ramp has there: nothing changes by it alone. @returns which it is; -1 without room */
export function addStopAt(draft: Effect, { id, literal, at }: At & { at: number }): number {
  const strand = strandOf(draft, id);
  const ramp = rampIn(strand, literal);
  if (ramp.stops.length >= MAX_STOPS) return -1;
  const now = turned(strand, literal, ramp as Ramp);
  const after = now.findLastIndex((s) => s.at <= at);
  const rgb = colourAt({ ...(ramp as Ramp), stops: now }, at, after);
  renumber(draft, strand, literal, after + 1, 1, null);
  ramp.stops.splice(after + 1, 0, { at, rgb });
  return after + 1;
}

/** Puts stops at equal distances from 0 to 1, in their order. */
export function spreadStops(draft: Effect, { id, literal }: At): void {
  const strand = strandOf(draft, id);
  const { stops } = rampIn(strand, literal);
  stops.forEach((stop, k) => {
    stop.at = stops.length > 1 ? Number((k / (stops.length - 1)).toFixed(4)) : 0;
    const input = strand.inputs?.[`${literal}.${k}.place`];
    if (input && !isLink(input)) input.value = stop.at;
  });
}

/** Gives a ramp other stops. What was linked to stops, or a dial of them, goes. @param stops 1 to `MAX_STOPS` */
export function replaceStops(draft: Effect, { id, literal, stops }: At & { stops: Ramp['stops'] }): void {
  const strand = strandOf(draft, id);
  const ramp = rampIn(strand, literal);
  for (let k = ramp.stops.length - 1; k >= 0; k--) renumber(draft, strand, literal, Infinity, 0, k);
  ramp.stops = stops.slice(0, MAX_STOPS).map(({ at, rgb }) => ({ at, rgb: [rgb[0]!, rgb[1]!, rgb[2]!] }));
  (strand.inputs ??= {})[literal] = { value: ramp };
}

export function dropStop(draft: Effect, { id, literal, stop }: At & { stop: number }): void {
  const strand = strandOf(draft, id);
  const ramp = rampIn(strand, literal);
  if (ramp.stops.length <= 1) return;
  renumber(draft, strand, literal, stop + 1, -1, stop);
  ramp.stops.splice(stop, 1);
}
