/**
 * What of an effect makes its program: everything but its numbers. Two effects of one skeleton lower to one program,
 * whose live numbers then follow either of them.
 */
import {
  isColour,
  isImage,
  isLink,
  isRamp,
  isWritten,
  strandsOf,
  type Effect,
  type Input,
  type Strand,
  type Value,
} from './schema.js';
import { flat } from './motifs.js';
import { roomFor } from './triggers.js';

function markOf(value: Value): string {
  if (typeof value === 'number' || typeof value === 'boolean') return '#';
  if (Array.isArray(value)) return `#${value.length}`;
  if (isColour(value)) return '#rgb';
  if (isRamp(value)) return `ramp ${value.stops.length} ${value.space} ${value.interpolation}`;
  if (isWritten(value)) return `text ${JSON.stringify(value.text)}`;
  if (isImage(value)) return `image ${JSON.stringify(value.asset)}`;
  // A form without numbers, or one that is not known here: all of it counts.
  return JSON.stringify(value);
}

const inputMark = (input: Input): string =>
  isLink(input) ? `from ${input.from} ${input.port ?? ''} ${input.part ?? ''}` : markOf(input.value);

function recordMark<T>(record: Readonly<Record<string, T | undefined>> | undefined, mark: (value: T) => string): string {
  const names = Object.keys(record ?? {}).sort();
  return names.map((name) => (record![name] === undefined ? '' : `${JSON.stringify(name)}: ${mark(record![name]!)}`)).join();
}

/** A strand that an edit leaves alone stays the same object, so that its mark is made once. */
const marks = new WeakMap<Strand, string>();

export function strandMark(strand: Strand): string {
  let mark = marks.get(strand);
  if (mark === undefined) {
    const { id, name, op, bypassed, inputs, options } = strand;
    mark = [id, JSON.stringify(name), op, bypassed === true, recordMark(inputs, inputMark), recordMark(options, String)].join(
      '|',
    );
    marks.set(strand, mark);
  }
  return mark;
}

/** What of an effect makes its strands' programs besides themselves: what they may look up. */
export function surroundingsMark(effect: Effect): string {
  const cued = new Set(effect.cues.map((c) => c.dial));
  return [
    effect.loop === null ? 'runs on' : 'loops',
    effect.dials.flatMap((d) => (cued.has(d.id) ? `${d.id} ${d.strand}.${d.input}` : [])).join(),
    effect.cues.map((c) => `${c.dial} ${c.before ?? ''} ${c.after ?? ''} ${c.keys.map((k) => markOf(k.value)).join(' ')}`).join(),
    effect.shared.map((s) => `${s.id} ${JSON.stringify(s.name)} ${markOf(s.value)}`).join(),
    effect.triggers.map((t) => `${t.id} ${JSON.stringify(t.name)} ${roomFor(t)}`).join(),
    recordMark(effect.assets, ({ sha256, colour, size }) => `${sha256} ${colour} ${size.join('x')}`),
  ].join('\n');
}

export function skeletonOf(whole: Effect): string {
  const effect = flat(whole);
  return [
    effect.kind,
    ...strandsOf(effect).map(strandMark),
    recordMark(effect.outputs as Record<string, Input>, inputMark),
    effect.dials.map((d) => `${d.id} ${d.strand}.${d.input}`).join(),
    surroundingsMark(effect),
  ].join('\n');
}
