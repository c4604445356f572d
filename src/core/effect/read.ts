/** Reads an effect from text or from a parsed object. Nothing is thrown for bad input: it is refused with sentences. */
import type { z } from 'zod';
import { own, whatIsUnwholesome } from '../base/wholesome.js';
import { findOperator } from '../operators/catalogue.js';
import { stopOf, type Ramp } from '../operators/record.js';
import {
  EFFECT_DEFAULTS,
  EFFECT_VERSION,
  MAX_FILE_BYTES,
  MAX_STRANDS,
  effectSchema,
  formOf,
  isImage,
  isLink,
  isNumbers,
  isRamp,
  isWritten,
  strandsOf,
  type Dial,
  type Effect,
  type Input,
  type Strand,
} from './schema.js';
import { MOTIF, motifOf, overgrown, recursion } from './motifs.js';
import { OUTPUTS } from './outputs.js';

export interface Problem {
  /** The strand it is about, or null for the file as a whole. */
  readonly strand: string | null;
  readonly code: string;
  /** A sentence that says what and where. */
  readonly message: string;
  /** The character of a written text that it is about, counted from 0. */
  readonly at?: number;
}

export type ReadResult = { readonly ok: true; readonly effect: Effect } | { readonly ok: false; readonly problems: Problem[] };

const refuse = (code: string, message: string, strand: string | null = null): ReadResult => ({
  ok: false,
  problems: [{ strand, code, message }],
});

/** @param source the text of a `*.wispen.json` file */
export function readEffectText(source: string): ReadResult {
  const bytes = new TextEncoder().encode(source).length;
  if (bytes > MAX_FILE_BYTES)
    return refuse('oversized', `The file is ${(bytes / 1048576).toFixed(1)} MB; an effect file may be at most 4 MB.`);
  let parsed: unknown;
  try {
    parsed = JSON.parse(source);
  } catch (error) {
    return refuse('syntax', `The file is not JSON: ${(error as Error).message}.`);
  }
  return readEffect(parsed);
}

/** @param parsed what JSON.parse gave */
export function readEffect(parsed: unknown): ReadResult {
  if (typeof parsed !== 'object' || parsed === null || Array.isArray(parsed))
    return refuse('format', 'The file does not hold an effect: its outermost value is not an object.');
  const unwholesome = whatIsUnwholesome(parsed);
  if (unwholesome) return refuse('unwholesome', unwholesome);
  const file = parsed as Record<string, unknown>;
  if (file.format !== 'wispen-effect')
    return refuse('format', `The field "format" is ${show(file.format)}; an effect file has "wispen-effect".`);
  if (file.version !== EFFECT_VERSION)
    return refuse(
      'version',
      typeof file.version === 'number' && file.version > EFFECT_VERSION
        ? `The file is of version ${file.version}; this Wispen reads up to version ${EFFECT_VERSION}. Open it with a newer Wispen.`
        : `The field "version" is ${show(file.version)}; this Wispen reads version ${EFFECT_VERSION}.`,
    );
  if (Array.isArray(file.strands) && file.strands.length > MAX_STRANDS)
    return refuse('oversized', `The sheet has ${file.strands.length} strands; at most ${MAX_STRANDS} are read.`);
  const unknownOps = unknownOperators(file.strands);
  if (unknownOps.length > 0) return { ok: false, problems: unknownOps };
  const finish = { ...EFFECT_DEFAULTS.finish, ...(isRecord(file.finish) ? file.finish : {}) };
  const checked = effectSchema.safeParse({
    ...EFFECT_DEFAULTS,
    ...file,
    ...(file.finish === undefined || isRecord(file.finish) ? { finish } : {}),
  });
  if (!checked.success) return { ok: false, problems: checked.error.issues.slice(0, 20).map((issue) => describe(issue, file)) };
  const problems = structure(checked.data);
  return problems.length > 0 ? { ok: false, problems } : { ok: true, effect: checked.data };
}

const isRecord = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null && !Array.isArray(v);

function show(value: unknown): string {
  if (value === undefined) return 'missing';
  const text = JSON.stringify(value) ?? String(value);
  return text.length > 40 ? `${text.slice(0, 40)}…` : text;
}

function unknownOperators(strands: unknown): Problem[] {
  if (!Array.isArray(strands)) return [];
  return strands.flatMap((s: unknown, k) => {
    if (!isRecord(s) || typeof s.op !== 'string' || findOperator(s.op)) return [];
    const id = typeof s.id === 'string' ? s.id.slice(0, 40) : null;
    return [
      {
        strand: id,
        code: 'unknown-op',
        message: `Strand ${k + 1} (${id ?? 'without an id'}) uses the operator ${show(s.op)}, which this Wispen does not have.`,
      },
    ];
  });
}

/** A sentence for one of Zod's findings. */
function describe(issue: z.core.$ZodIssue, file: Record<string, unknown>): Problem {
  const path = issue.path.map(String);
  let strand: string | null = null;
  let where = path.join('.') || 'the file';
  if (path[0] === 'strands' && path[1] !== undefined && Array.isArray(file.strands)) {
    const s: unknown = file.strands[Number(path[1])];
    strand = isRecord(s) && typeof s.id === 'string' ? s.id.slice(0, 40) : null;
    where = `strand ${Number(path[1]) + 1}${strand ? ` (${strand})` : ''}${path.length > 2 ? `, ${path.slice(2).join('.')}` : ''}`;
  }
  const at = where[0]!.toUpperCase() + where.slice(1);
  switch (issue.code) {
    case 'unrecognized_keys':
      return {
        strand,
        code: 'unknown-field',
        message: `${at}: the field ${issue.keys.map((k) => `"${k.slice(0, 40)}"`).join(', ')} is not known here; put your own data under "extra".`,
      };
    case 'invalid_union':
      return { strand, code: 'schema', message: `${at}: this is none of the forms that are allowed here.` };
    default:
      return { strand, code: 'schema', message: `${at}: ${issue.message}.` };
  }
}

/** What the schema cannot say: unique ids, and that every strand reads only strands above it. */
function structure(effect: Effect): Problem[] {
  const strands = strandsOf(effect);
  const rank = new Map<string, number>();
  strands.forEach((s, k) => rank.has(s.id) || rank.set(s.id, k));
  const whole: Whole = { effect, strands, rank };
  return [
    ...twice(whole),
    ...links(whole),
    ...outputLinks(whole),
    ...dials(whole),
    ...stops(whole),
    ...turned(whole),
    ...motifs(whole),
  ].slice(0, MOST_PROBLEMS);
}

/** As many as are told at once. */
const MOST_PROBLEMS = 50;

interface Whole {
  readonly effect: Effect;
  readonly strands: readonly Strand[];
  /** Where each strand stands, by its id. */
  readonly rank: ReadonlyMap<string, number>;
}

function* twice({ strands, rank }: Whole): Iterable<Problem> {
  for (const [k, s] of strands.entries())
    if (rank.get(s.id) !== k)
      yield {
        strand: s.id,
        code: 'duplicate-id',
        message: `Strands ${rank.get(s.id)! + 1} and ${k + 1} have the same id, ${s.id}.`,
      };
}

/** What is wrong with the port that a link names; null where it is there, or none is named. */
function badPort({ strands, rank }: Whole, input: Extract<Input, { from: string }>): string | null {
  if (input.port === undefined) return null;
  const target = strands[rank.get(input.from)!]!;
  const ports = findOperator(target.op)!.outputs.map((o) => o.id);
  return ports.includes(input.port) ? null : `${target.name} has no output "${input.port}"; it has ${ports.join(', ')}`;
}

function* links(whole: Whole): Iterable<Problem> {
  const { strands, rank } = whole;
  for (const [k, s] of strands.entries())
    for (const [name, input] of Object.entries(s.inputs ?? {}) as [string, Input | undefined][]) {
      if (!isLink(input)) continue;
      const above = rank.get(input.from);
      const where = `Strand ${k + 1} (${s.name}), input ${name},`;
      const problem = (code: string, message: string): Problem => ({ strand: s.id, code, message: `${where} ${message}` });
      if (above === undefined) yield problem('missing-strand', `reads a strand ${input.from} that is not in the sheet.`);
      else if (above === k) yield problem('order', 'reads itself; a strand reads only strands above it.');
      else if (above > k)
        yield problem('order', `reads ${strands[above]!.name}, which stands below it; a strand reads only strands above it.`);
      else {
        const bad = badPort(whole, input);
        if (bad) yield problem('port', `is linked wrongly: ${bad}.`);
      }
    }
}

function* outputLinks(whole: Whole): Iterable<Problem> {
  const { effect, rank } = whole;
  const problem = (code: string, message: string): Problem => ({ strand: null, code, message });
  for (const [name, input] of Object.entries(effect.outputs) as [string, Input | undefined][]) {
    if (!(OUTPUTS[effect.kind] as readonly string[]).includes(name))
      yield problem('output', `A ${effect.kind} effect has no output ${name}.`);
    if (!isLink(input)) continue;
    if (!rank.has(input.from))
      yield problem('missing-strand', `The output ${name} reads a strand ${input.from} that is not in the sheet.`);
    else {
      const bad = badPort(whole, input);
      if (bad) yield problem('port', `The output ${name} is linked wrongly: ${bad}.`);
    }
  }
}

function* dials({ effect, strands, rank }: Whole): Iterable<Problem> {
  const known = new Set<string>();
  for (const d of effect.dials) {
    if (known.has(d.id)) yield { strand: d.strand, code: 'duplicate-id', message: `Two dials have the id ${d.id}.` };
    known.add(d.id);
    const target = strands[rank.get(d.strand) ?? -1];
    const operator = target && findOperator(target.op)!;
    if (!operator)
      yield { strand: null, code: 'dial', message: `The dial ${d.id} turns a strand ${d.strand} that is not in the sheet.` };
    else if (
      !Object.hasOwn(operator.inputs, d.input) &&
      !Object.hasOwn(operator.options, d.input) &&
      !Object.hasOwn(operator.literals, stopOf(d.input)?.literal ?? d.input)
    )
      yield {
        strand: d.strand,
        code: 'dial',
        message: `The dial ${d.id} turns ${d.input}, which ${target.name} does not have.`,
      };
  }
}

function* stops({ effect, strands }: Whole): Iterable<Problem> {
  for (const s of strands)
    for (const name of [...Object.keys(s.inputs ?? {}), ...effect.dials.flatMap((d) => (d.strand === s.id ? [d.input] : []))]) {
      const stop = stopOf(name);
      const record = stop && findOperator(s.op)!.literals[stop.literal];
      if (!stop || record?.form !== 'ramp') continue;
      const given = s.inputs?.[stop.literal];
      const ramp = given && !isLink(given) && isRamp(given.value) ? given.value : (record.default as Ramp);
      if (stop.stop >= ramp.stops.length)
        yield {
          strand: s.id,
          code: 'stop',
          message: `${s.name} has ${ramp.stops.length} stops, counted from 0, and ${name} is of another.`,
        };
    }
}

/** Motifs whose strands read what is not there, or that use themselves; uses of such that are gone, or have other inputs. */
function* motifs({ effect, strands }: Whole): Iterable<Problem> {
  for (const [k, motif] of effect.motifs.entries()) {
    const wrong = (message: string): Problem => ({ strand: null, code: 'motif', message: `The motif ${motif.name}: ${message}` });
    if (effect.motifs.findIndex((m) => m.id === motif.id) !== k) yield wrong(`another motif has the id ${motif.id} too.`);
    const round = recursion(effect.motifs, motif);
    if (round) yield wrong(`it uses itself: ${round.join(', which uses ')}.`);
    const known = new Set<string>(motif.inputs.map((i) => i.id));
    for (const s of strandsOf(motif as unknown as Effect)) {
      for (const [name, input] of Object.entries(s.inputs ?? {}))
        if (isLink(input) && !known.has(input.from))
          yield wrong(`${s.name} reads ${input.from} for ${name}, which is neither an input nor a strand above it.`);
      if (known.has(s.id)) yield wrong(`two of its strands or inputs have the id ${s.id}.`);
      known.add(s.id);
    }
    for (const o of motif.outputs)
      if (o.from && !known.has(o.from.from)) yield wrong(`its output ${o.name} gives ${o.from.from}, which is not there.`);
  }
  const grown = overgrown(effect);
  if (grown) yield { strand: null, code: 'motif', message: grown };
  for (const s of strands) {
    const named = s.op === MOTIF ? s.inputs?.[MOTIF] : undefined;
    if (!named || isLink(named) || !isWritten(named.value)) continue;
    if (!motifOf(effect, s))
      yield {
        strand: s.id,
        code: 'motif',
        message: `${s.name} uses the motif ${show(named.value.text)}, which the file does not have.`,
      };
  }
}

/** Variants and cues that turn dials which are not there. */
function* turned(whole: Whole): Iterable<Problem> {
  const { effect } = whole;
  const known = new Set(effect.dials.map((d) => d.id));
  for (const v of effect.variants)
    for (const key of Object.keys(v.values))
      if (!known.has(key))
        yield { strand: null, code: 'variant', message: `The variant ${v.name} sets a dial ${key} that does not exist.` };
  for (const c of effect.cues)
    if (!known.has(c.dial)) yield { strand: null, code: 'cue', message: `A cue moves a dial ${c.dial} that does not exist.` };
  yield* worded(whole);
}

/** What a dial turns, and what of another kind it cannot be. @returns why a value cannot be one of its, to follow what is said of it */
function notOf(whole: Whole, dial: Dial, value: unknown): string | null {
  const target = whole.strands[whole.rank.get(dial.strand) ?? -1];
  const operator = target && findOperator(target.op);
  if (!operator) return null;
  const words = own(operator.options, dial.input)?.values;
  const word = isWritten(value) ? value.text : typeof value === 'string' ? value : null;
  if (words) return word !== null && words.includes(word) ? null : `is none of ${words.join(', ')}`;
  const form = own(operator.literals, dial.input)?.form;
  if (form !== undefined) {
    const fits = { ramp: isRamp, image: isImage }[form as string] ?? isWritten;
    return fits(value)
      ? null
      : `is a ${formOf(value)}, and not a ${{ ramp: 'ramp', image: 'picture' }[form as string] ?? 'text'}`;
  }
  return isNumbers(value) ? null : `is ${word === null ? `a ${formOf(value)}` : `the words ${show(word)}`}, and not a value`;
}

/** Values of variants and keys of cues that are of another kind than what their dials turn. */
function* worded(whole: Whole): Iterable<Problem> {
  const { effect, strands, rank } = whole;
  const dialOf = new Map(effect.dials.map((d) => [d.id, d]));
  const nameOf = (dial: Dial) => strands[rank.get(dial.strand) ?? -1]?.name ?? dial.strand;
  for (const v of effect.variants)
    for (const [key, value] of Object.entries(v.values)) {
      const dial = dialOf.get(key);
      const why = dial && notOf(whole, dial, value);
      if (why)
        yield {
          strand: dial!.strand,
          code: 'variant',
          message: `The variant ${v.name} sets ${nameOf(dial!)}, ${dial!.input}, to what ${why}.`,
        };
    }
  for (const c of effect.cues) {
    const dial = dialOf.get(c.dial);
    if (!dial) continue;
    const where = (time: number) => `The cue of ${nameOf(dial)}, ${dial.input}, has a key at ${time} s`;
    const moves = !own(findOperator(strands[rank.get(dial.strand) ?? -1]?.op ?? '')?.literals, dial.input);
    for (const { value, time } of c.keys) {
      const why = moves ? notOf(whole, dial, value) : 'turns what no cue can move';
      const first = formOf(c.keys[0]!.value);
      const other = formOf(value) === first ? null : `is a ${formOf(value)}, where its first is a ${first}`;
      if (why ?? other) yield { strand: dial.strand, code: 'cue', message: `${where(time)} that ${why ?? other}.` };
    }
  }
  for (const { name, inputs } of effect.motifs)
    for (const input of inputs)
      if (input.default !== undefined && !isNumbers(input.default))
        yield {
          strand: null,
          code: 'motif',
          message: `The motif ${name}: its input ${input.name} begins with a ${formOf(input.default)}.`,
        };
}
