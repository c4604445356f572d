/** Findings about a sheet that need no picture, each with a reason in an artist's words and what would mend it. */
import { own } from '../base/wholesome.js';
import type { Mend } from '../effect/mends.js';
import { BLENDED, MAX_MAGNITUDE, isLink, strandsOf, type Effect, type Input, type Strand } from '../effect/schema.js';
import type { OutputName } from '../effect/outputs.js';
import { nextUp } from '../base/floats.js';
import { LEAVES, type Leaf } from '../ir/leaves.js';
import type { Interval } from '../ir/types.js';
import type { Program } from '../lower/lower.js';
import { findOperator } from '../operators/catalogue.js';
import { wantedBy } from '../operators/meaning.js';
import { restsOn } from '../operators/record.js';
import { rates } from '../passes/rates.js';
import { closing, readLoop } from './loop.js';
import { isLoose, measureStrands, measuredHull, type Measured } from './measure.js';
import { hullOf, readStrands, type StrandReading } from './reading.js';

export interface Advice {
  readonly strand: string | null;
  readonly code: string;
  readonly message: string;
  /** What to do about it, as a sentence; null where only the artist can tell. */
  readonly mend: string | null;
  /** `caution`: it happens. `note`: it can happen, at values it does not have now. */
  readonly level: 'caution' | 'note';
  /** The mend as an edit, where one press can make it. */
  readonly edit: Mend | null;
}

export const round = (x: number) => String(Number(x.toPrecision(3)));

const SEE_THROUGH = ['blend', 'add'];
/** Places that are only there when the surface is drawn after the opaque scene. */
const BEHIND: readonly Leaf[] = ['depthGap', 'depthGapRay', 'depthGapDown', 'behind', 'behindPosition'];

/** Cells between places that floats tell apart, from which on it is seen: a sixteenth. */
const COARSE = 1 / 16;

/**
 * How far out a strand with a position and a scale is looked up, and how far apart 32-bit floats are there.
 * @returns null where it is looked up at no place, or where nothing bounds the place
 */
function cellsAway(
  strand: Strand,
  linked: (input: Input | undefined) => { readonly can: Interval } | null,
): { away: number; apart: number; scale: number } | null {
  const operator = findOperator(strand.op);
  if (!operator?.inputs.position || !operator.inputs.scale) return null;
  const most = (name: string): number => {
    const given = strand.inputs?.[name];
    const record = operator.inputs[name]!;
    const range = isLink(given) ? (linked(given)?.can ?? null) : null;
    if (range) return Math.max(Math.abs(range.low), Math.abs(range.high));
    if (given && !isLink(given)) return Math.max(...[given.value].flat().map((v) => Math.abs(Number(v))));
    if (typeof record.default === 'number') return Math.abs(record.default);
    const place = restsOn(record);
    return place ? LEAVES[place].high : NaN;
  };
  const [place, scale] = [most('position'), most('scale')];
  const away = place * scale;
  return Number.isFinite(away) && away > 0 ? { away, apart: nextUp(away) - Math.fround(away), scale } : null;
}

/** What a link can be, whether it is so now, and of which strand: by the parts it takes. */
interface Linked {
  readonly can: Interval;
  readonly is: Interval | null;
  readonly name: string;
  readonly from: string;
}
type LinkedBy = (input: Input | undefined) => Linked | null;

function linkedBy(
  effect: Effect,
  readings: ReadonlyMap<string, StrandReading>,
  measured: ReadonlyMap<string, Measured>,
): LinkedBy {
  const names = new Map(strandsOf(effect).map((s) => [s.id, s.name]));
  return (input) => {
    if (!isLink(input) || input.port !== undefined) return null;
    const range = readings.get(input.from)?.range;
    if (!range) return null;
    const letters = input.part && /^[xyzw]+$/.test(input.part) ? 'xyzw' : 'rgba';
    const lanes = input.part ? [...input.part].map((c) => letters.indexOf(c)) : range.map((_, k) => k);
    const now = measured.get(input.from);
    const is = now && measuredHull({ ...now, range: lanes.map((l) => now.range[Math.min(l, now.range.length - 1)] ?? null) });
    return {
      can: hullOf(lanes.map((l) => range[Math.min(l, range.length - 1)]!)),
      is: is ?? null,
      name: names.get(input.from)! + (input.part ? `.${input.part}` : ''),
      from: input.from,
    };
  };
}

export function advise(
  effect: Effect,
  program: Program,
  readings: Map<string, StrandReading> = readStrands(program, effect.loop),
  measured: ReadonlyMap<string, Measured> = measureStrands(program, effect),
): Advice[] {
  const advice: Advice[] = [];
  const say: Say = (strand, code, message, mend = null, { edit = null, level = 'caution' } = {}) =>
    void advice.push({ strand, code, message, mend, level, edit });
  const linked = linkedBy(effect, readings, measured);
  connections(effect, say);
  for (const s of strandsOf(effect)) if (!s.bypassed) domainFindings(s, linked, say);
  for (const s of strandsOf(effect)) if (!s.bypassed) fineness(s, linked, say);
  for (const s of strandsOf(effect)) if (!s.bypassed) beats(s, readings, say);
  for (const s of strandsOf(effect)) if (!s.bypassed) maskFindings(s, linked, say);
  for (const s of strandsOf(effect))
    if (measured.get(s.id)?.broken)
      say(
        s.id,
        'not-finite',
        `${s.name} is not a finite number at some places.`,
        'Look at what it divides by, and at very large exponents.',
      );
  opacityFindings(effect, linked, say);
  finishFindings(effect, program, say);
  motionFindings(effect, program, say);
  return advice;
}

/** Inputs that leave what their operator means anything for. */
function domainFindings(s: Strand, linked: LinkedBy, say: Say): void {
  const domain = findOperator(s.op)?.domain;
  const source = domain && linked(own(s.inputs, domain.input));
  if (!source) return;
  const { can, is, name, from } = source;
  if ('least' in domain && can.low < domain.least)
    say(
      s.id,
      domain.code,
      domain.says(name, Number.isFinite(can.low) ? round(can.low) : 'any depth'),
      `Clamp ${name} to ${domain.least} or more.`,
      {
        level: is && is.low >= domain.least ? 'note' : 'caution',
        edit: {
          label: `Keep ${name} at ${domain.least} or more`,
          edits: [{ kind: 'clamp', strand: from, reader: { strand: s.id, input: domain.input }, low: domain.least, high: null }],
        },
      },
    );
  if ('never' in domain && can.low <= domain.never && can.high >= domain.never) {
    const happens = !is || (is.low <= domain.never && is.high >= domain.never);
    say(s.id, domain.code, `${name} can be 0 and nothing can be divided by 0; there it gives 0.`, `Keep ${name} away from 0.`, {
      level: happens ? 'caution' : 'note',
      // A positive divisor is kept above 0; one of both signs has no such floor.
      edit:
        can.low >= 0
          ? {
              label: `Keep ${name} at 0.001 or more`,
              edits: [{ kind: 'clamp', strand: from, reader: { strand: s.id, input: domain.input }, low: 0.001, high: null }],
            }
          : null,
    });
  }
}

/** Lattices that are looked up so far out that floats cannot tell places apart. */
function fineness(s: Strand, linked: LinkedBy, say: Say): void {
  const far = cellsAway(s, linked);
  if (!far || far.apart <= COARSE) return;
  say(
    s.id,
    'too-fine',
    `${s.name} is looked up ${round(far.away)} cells away from its middle; out there floats tell places ${round(far.apart)} cells apart, and none between them.`,
    `Lower its scale to ${round(far.scale * (COARSE / far.apart))}x or less.`,
  );
}

/** Noise along a time that goes evenly: at its lattice's corners gradient noise is 0 (Perlin 2002), and time comes by them all. */
function beats(s: Strand, readings: ReadonlyMap<string, StrandReading>, say: Say): void {
  const position = s.inputs?.position;
  if (!findOperator(s.op)?.zeroAtCells || !isLink(position) || s.inputs?.churn !== undefined) return;
  const reading = readings.get(position.from);
  if (reading?.rate !== 'frame' || (reading.kind !== '1' && position.part?.length !== 1)) return;
  say(
    s.id,
    'noise-beat',
    `${s.name} runs along time alone, and such a noise is 0 at every whole cell: it comes back to the middle at a steady beat.`,
    'Use flicker, which runs between the rows of its lattice.',
    { level: 'note' },
  );
}

/** What rounding may add to a share. */
const HAIR = 1e-4;
const inUnit = ({ low, high }: Interval): boolean => low >= -HAIR && high <= 1 + HAIR;

/** Numbers that leave 0..1 where a mask is meant: beyond it, it eats more than all, or less than nothing. */
function maskFindings(s: Strand, linked: LinkedBy, say: Say): void {
  const operator = findOperator(s.op);
  for (const [name, record] of Object.entries(operator?.inputs ?? {})) {
    if (wantedBy(record) !== 'mask' || record.soft[0] !== 0 || record.soft[1] !== 1) continue;
    const source = linked(own(s.inputs, name));
    if (!source || inUnit(source.can)) continue;
    const { is, can } = source;
    // What is proved, unless that says far more than what occurs.
    const told = is && (isLoose(can, is) || !Number.isFinite(can.low - can.high)) ? is : can;
    const [low, high] = [round(told.low), round(told.high)];
    const finite = Math.max(-told.low, told.high) <= MAX_MAGNITUDE;
    say(
      s.id,
      'mask-range',
      finite
        ? `${source.name} runs from ${low} to ${high}, and ${name} of ${s.name} means 0 to 1.`
        : `Nothing keeps ${source.name} within 0 to 1, which is what ${name} of ${s.name} means.`,
      'Bring it to 0..1.',
      {
        level: is && inUnit(is) ? 'note' : 'caution',
        edit: finite
          ? {
              label: 'To 0..1',
              edits: [
                {
                  kind: 'unit',
                  strand: source.from,
                  reader: { strand: s.id, input: name },
                  low: Number(low),
                  high: Number(high),
                },
              ],
            }
          : null,
      },
    );
  }
}

function opacityFindings(effect: Effect, linked: LinkedBy, say: Say): void {
  const opacity = linked(effect.outputs.opacity);
  if (!opacity || (opacity.can.low >= 0 && opacity.can.high <= 1)) return;
  say(
    opacity.from,
    'opacity-range',
    Number.isFinite(opacity.can.high - opacity.can.low)
      ? `Opacity goes from 0 to 1 and ${opacity.name} can be ${round(opacity.can.low)} to ${round(opacity.can.high)}.`
      : `Opacity goes from 0 to 1, and nothing keeps ${opacity.name} there.`,
    'Clamp it to 0..1.',
    {
      level: opacity.is && opacity.is.low >= 0 && opacity.is.high <= 1 ? 'note' : 'caution',
      edit: {
        label: 'Clamp it to 0..1',
        edits: [{ kind: 'clamp', strand: opacity.from, reader: { output: 'opacity' }, low: 0, high: 1 }],
      },
    },
  );
}

type Say = (
  strand: string | null,
  code: string,
  message: string,
  mend?: string | null,
  more?: { edit?: Mend | null; level?: Advice['level'] },
) => void;

/** What is not read, and outputs that nothing feeds. */
function connections(effect: Effect, say: Say): void {
  const strands = strandsOf(effect);
  const read = new Set<string>();
  for (const s of strands) for (const input of Object.values(s.inputs ?? {})) if (isLink(input)) read.add(input.from);
  for (const input of Object.values(effect.outputs)) if (isLink(input)) read.add(input.from);
  const last = strands[strands.length - 1];
  const first = (effect.kind === 'light' ? 'colour' : 'emission') as OutputName;
  if (Object.keys(effect.outputs).length === 0)
    say(
      null,
      'nothing-connected',
      'No output is connected, so the surface shows nothing of this sheet.',
      'Feed a strand into Emission.',
      last
        ? { edit: { label: `Feed ${last.name} into ${first}`, edits: [{ kind: 'output', output: first, from: last.id }] } }
        : {},
    );
  for (const s of strands)
    if (!read.has(s.id))
      say(s.id, 'unread', `No strand and no output reads ${s.name}.`, `Feed ${s.name} into an output, or delete it.`, {
        level: 'note',
        edit: { label: `Delete ${s.name}`, edits: [{ kind: 'delete', strand: s.id }] },
      });
}

/** What the surface is drawn as, against what the sheet asks of it. */
function finishFindings(effect: Effect, program: Program, say: Say): void {
  const { outputs, finish } = effect;
  const seeThrough = SEE_THROUGH.includes(finish.alphaMode);
  const blend: Mend = {
    label: 'Set the finish to blend',
    edits: [{ kind: 'finish', change: BLENDED }],
  };
  const roots = [...program.outputs.values()].map((o) => o.node);
  const used = [...rates(roots).keys()];
  const leaves = new Set(used.flatMap((n) => (n.op === 'leaf' ? [n.leaf!] : [])));
  if (outputs.opacity && finish.alphaMode === 'opaque')
    say(
      null,
      'opaque-opacity',
      'Opacity is connected and the finish is opaque, so nothing of it is seen.',
      'Set the finish to blend, mask or dither.',
      { edit: blend },
    );
  if (outputs.maskThreshold && finish.alphaMode !== 'mask')
    say(
      null,
      'no-mask',
      'Mask threshold is connected and the finish is not mask, so nothing of it is seen.',
      'Set the finish to mask.',
      {
        edit: { label: 'Set the finish to mask', edits: [{ kind: 'finish', change: { alphaMode: 'mask' } }] },
      },
    );
  const reader = strandsOf(effect).find((s) => !s.bypassed && readsBehind(s, program));
  if (!seeThrough && (BEHIND.some((l) => leaves.has(l)) || used.some((n) => n.op === 'behind')))
    say(
      reader?.id ?? null,
      'opaque-depth',
      `${reader?.name ?? 'A strand'} reads what lies behind, and an opaque surface has nothing behind it.`,
      'Set the finish to blend or add.',
      { edit: blend },
    );
  if (outputs.refraction && !seeThrough)
    say(
      null,
      'opaque-refraction',
      'Refraction is connected and the finish is opaque, so nothing is seen through it.',
      'Set the finish to blend.',
      { edit: blend },
    );
  if (seeThrough && finish.castsShadow)
    say(null, 'solid-shadow', 'The surface is see-through and casts a solid shadow.', 'Turn its shadow off.', {
      edit: { label: 'Turn its shadow off', edits: [{ kind: 'finish', change: { castsShadow: false } }] },
    });
  if (seeThrough && finish.writesDepth)
    say(
      null,
      'hides-behind',
      'The surface is see-through and writes depth, so it hides see-through things behind it.',
      'Turn writing depth off.',
      {
        level: 'note',
        edit: { label: 'Turn writing depth off', edits: [{ kind: 'finish', change: { writesDepth: false } }] },
      },
    );
}

const readsBehind = (s: Strand, program: Program): boolean => {
  const lowered = program.strands.get(s.id);
  if (!lowered) return false;
  // Its own reading, not that of a strand above it.
  const { inputs, looks } = findOperator(s.op)!;
  const places = Object.entries(inputs).filter(([, r]) => BEHIND.includes(restsOn(r)!));
  return places.length > 0 ? places.some(([name]) => s.inputs?.[name] === undefined) : looks === 'behind';
};

/** What stands still, and what jumps. */
function motionFindings(effect: Effect, program: Program, say: Say): void {
  const roots = [...program.outputs.values()].map((o) => o.node);
  const timed = [...rates(roots).keys()].some((n) => n.op === 'leaf' && n.leaf === 'time');
  for (const s of strandsOf(effect)) {
    if (s.bypassed) continue;
    const name = findOperator(s.op)!.pace;
    const given = name ? s.inputs?.[name] : undefined;
    if (!name || !given || isLink(given)) continue;
    const zero = Array.isArray(given.value) ? given.value.every((v) => v === 0) : given.value === 0;
    const cued = effect.dials.some((d) => d.strand === s.id && d.input === name && effect.cues.some((c) => c.dial === d.id));
    if (zero && !cued) say(s.id, 'stands-still', `The ${name} of ${s.name} is 0, so it stands still.`, `Give it a ${name}.`);
  }
  if (roots.length > 0 && !timed)
    say(null, 'nothing-moves', 'No output depends on time, so nothing moves.', null, { level: 'note' });
  if (!timed || effect.loop === null) return;
  const loop = readLoop(program, effect);
  if (loop.closes) return;
  say(
    null,
    'loop-jumps',
    `The end of the ${round(effect.loop)} s loop does not meet its beginning: it jumps when it starts over.`,
    'Change a rate so that it makes whole turns in the loop, or the loop so that it holds whole turns.',
    { edit: closing(effect, loop) },
  );
}
