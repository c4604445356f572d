/** Edits of a ramp's stops. Dials, cues and links of a stop go with it. */
import { operatorOf } from '../operators/catalogue.js';
import { MAX_STOPS, stopOf, type Ramp } from '../operators/record.js';
import { strandOf } from './edits.js';
import { isLink, isRamp, type Effect, type Strand, type Value } from './schema.js';

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

export function dropStop(draft: Effect, { id, literal, stop }: At & { stop: number }): void {
  const strand = strandOf(draft, id);
  const ramp = rampIn(strand, literal);
  if (ramp.stops.length <= 1) return;
  renumber(draft, strand, literal, stop + 1, -1, stop);
  ramp.stops.splice(stop, 1);
}
