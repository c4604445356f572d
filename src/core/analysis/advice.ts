/** Findings about a sheet that need no picture, each with a reason in an artist's words and what would mend it. */
import { isLink, strandsOf, type Effect } from '../effect/schema.js';
import type { Program } from '../lower/lower.js';
import { rates } from '../passes/rates.js';
import { readLoop } from './loop.js';
import { hullOf, readStrands, type StrandReading } from './reading.js';

export interface Advice {
  readonly strand: string | null;
  readonly code: string;
  readonly message: string;
  /** What to do about it, as a sentence; null where only the artist can tell. */
  readonly mend: string | null;
}

const round = (x: number) => String(Number(x.toPrecision(3)));

export function advise(
  effect: Effect,
  program: Program,
  readings: Map<string, StrandReading> = readStrands(program, effect.loop),
): Advice[] {
  const advice: Advice[] = [];
  const strands = strandsOf(effect);
  const names = new Map(strands.map((s) => [s.id, s.name]));
  const read = new Set<string>();
  for (const s of strands) for (const input of Object.values(s.inputs ?? {})) if (isLink(input)) read.add(input.from);
  for (const input of Object.values(effect.outputs)) if (isLink(input)) read.add(input.from);
  if (Object.keys(effect.outputs).length === 0)
    advice.push({
      strand: null,
      code: 'nothing-connected',
      message: 'No output is connected, so the surface shows nothing of this sheet.',
      mend: 'Feed a strand into Emission.',
    });
  for (const s of strands) {
    if (!read.has(s.id))
      advice.push({
        strand: s.id,
        code: 'unread',
        message: `No strand and no output reads ${s.name}.`,
        mend: `Feed ${s.name} into an output, or delete it.`,
      });
    if (s.bypassed) continue;
    const from = s.op === 'power' ? s.inputs?.in : s.op === 'divide' ? s.inputs?.b : undefined;
    if (!isLink(from)) continue;
    const source = readings.get(from.from);
    if (!source) continue;
    const { low, high } = hullOf(source.range);
    const name = names.get(from.from)!;
    if (s.op === 'power' && low < 0)
      advice.push({
        strand: s.id,
        code: 'power-below-zero',
        message: `${name} can fall to ${round(low)} and a power needs 0 or more; below 0 it gives 0.`,
        mend: `Clamp ${name} to 0 or more.`,
      });
    if (s.op === 'divide' && low <= 0 && high >= 0)
      advice.push({
        strand: s.id,
        code: 'divide-by-zero',
        message: `${name} can be 0 and nothing can be divided by 0; there it gives 0.`,
        mend: `Keep ${name} away from 0.`,
      });
  }
  const opacity = effect.outputs.opacity;
  if (isLink(opacity) && readings.has(opacity.from)) {
    const { low, high } = hullOf(readings.get(opacity.from)!.range);
    if (low < 0 || high > 1)
      advice.push({
        strand: opacity.from,
        code: 'opacity-range',
        message: `Opacity goes from 0 to 1 and ${names.get(opacity.from)!} can be ${round(low)} to ${round(high)}.`,
        mend: 'Clamp it to 0..1.',
      });
  }
  const roots = [...program.outputs.values()].map((o) => o.node);
  const timed = [...rates(roots).keys()].some((n) => n.op === 'leaf' && n.leaf === 'time');
  if (roots.length > 0 && !timed)
    advice.push({ strand: null, code: 'nothing-moves', message: 'No output depends on time, so nothing moves.', mend: null });
  if (timed && effect.loop !== null && !readLoop(program, effect).closes)
    advice.push({
      strand: null,
      code: 'loop-jumps',
      message: `The end of the ${round(effect.loop)} s loop does not meet its beginning: it jumps when it starts over.`,
      mend: 'Change a rate so that it makes whole turns in the loop, or the loop so that it holds whole turns.',
    });
  return advice;
}
