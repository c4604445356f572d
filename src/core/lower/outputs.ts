/** What the surface receives of a sheet, and from where it may be read. */
import { goesInto, kindInWords, widthOfKind } from '../base/kinds.js';
import { outputRecord, type OutputName } from '../effect/outputs.js';
import { isLink, strandsOf, type Effect, type Input } from '../effect/schema.js';
import type { Builder } from '../ir/builder.js';
import { costlier, type Rate } from '../ir/leaves.js';
import { rates } from '../passes/rates.js';
import { isNumeric, type Literals } from './literals.js';
import type { Complain, LoweredStrand, Port } from './program.js';

const RATE_WORDS: Record<Rate, string> = {
  once: 'never changes',
  frame: 'is the same all over it',
  vertex: 'is known at its vertices',
  pixel: 'differs from pixel to pixel',
};

export interface OutputPorts {
  readonly b: Builder;
  readonly literals: Literals;
  readonly strands: ReadonlyMap<string, LoweredStrand>;
  readonly follow: (link: Extract<Input, { from: string }>) => Port;
  readonly complain: Complain;
}

/** The outputs that the sheet gives; one that is given what it does not take is left out, with a problem. */
export function lowerOutputs(effect: Effect, ports: OutputPorts): Map<OutputName, Port> {
  const outputs = new Map<OutputName, Port>();
  for (const [name, input] of Object.entries(effect.outputs)) {
    const port = input && lowerOutput(name as OutputName, input, ports);
    if (port) outputs.set(name as OutputName, port);
  }
  checkPlaces(effect, outputs, ports);
  return outputs;
}

function lowerOutput(name: OutputName, input: Input, { b, literals, strands, follow, complain }: OutputPorts): Port | null {
  const { kind } = outputRecord(name);
  if (!isLink(input) && !isNumeric(input.value)) {
    complain(null, 'kind', `The output ${name} takes ${kindInWords(kind)}, not this kind of value.`);
    return null;
  }
  const port = isLink(input) ? follow(input) : literals.literal(input.value, { output: name }, '');
  // A bypassed strand gives it nothing: it rests on its own.
  if (port.neutral) return null;
  if (!goesInto(port.kind, kind)) {
    const what = isLink(input) ? strands.get(input.from)!.name : 'the value';
    complain(null, 'kind', `${what} is ${kindInWords(port.kind)}, the output ${name} takes ${kindInWords(kind)}.`);
    return null;
  }
  return { kind, node: b.widen(port.node, widthOfKind(kind)) };
}

/** An output that is computed once a frame cannot read a place of the surface; the strand that does is named. */
function checkPlaces(effect: Effect, outputs: ReadonlyMap<OutputName, Port>, { strands, complain }: OutputPorts): void {
  for (const [name, port] of outputs) {
    const allowed = outputRecord(name).rate;
    if (allowed === 'pixel') continue;
    const found = rates([port.node]);
    if (costlier(found.get(port.node)!, allowed) === allowed) continue;
    const reader = strandsOf(effect).find((s) => {
      const { node } = strands.get(s.id)!.value;
      return found.has(node) && costlier(found.get(node)!, allowed) !== allowed;
    });
    complain(
      reader?.id ?? null,
      'place',
      `${reader?.name ?? 'A strand'} reads the surface, and the output ${name} takes only what ${RATE_WORDS[allowed]}.`,
    );
  }
}
