/** The generated GLSL as one text to hand to a colleague: both shaders, and every uniform explained in words. */
import { dialLabel } from '../effect/edits.js';
import { flat, handsOn } from '../effect/motifs.js';
import { strandsOf, type Effect } from '../effect/schema.js';
import type { Leaf } from '../ir/leaves.js';
import { lower, type Program } from '../lower/lower.js';
import { paramValues, type ParamSource } from '../lower/params.js';
import { operatorOf } from '../operators/catalogue.js';
import { inputRecord } from '../operators/record.js';
import { fillBlock } from '../targets/block.js';
import { emitGlsl } from '../targets/glsl.js';
import { slotText, type Slot } from '../targets/plan.js';
import { shaderPair } from '../targets/glslPair.js';
import { commentOf } from '../targets/reserved.js';

const LEAF_WORDS: Partial<Record<Leaf, string>> = {
  time: "the stage's time, in seconds",
  timeRest: 'what a float has not of the time, in seconds: 0 does for the first hours',
  loop: "the loop's length in seconds; 0 for an effect that runs on",
};

/** What a value of the uniform block stands for, for programs to read. */
export function describeSlot(slot: Slot, program: Program, values: Float32Array) {
  const param = program.params.find((p) => slot.node.op === 'param' && p.at === slot.node.index);
  const meaning =
    slot.node.op === 'leaf'
      ? (LEAF_WORDS[slot.node.leaf!] ?? `the stage's ${slot.node.leaf!}`)
      : param
        ? param.source
        : 'computed once a frame';
  return {
    name: slot.name,
    vec4: slot.at >> 2,
    component: 'xyzw'[slot.at & 3],
    components: slot.width,
    stands: meaning,
    ...(slot.node.op === 'leaf' ? { leaf: slot.node.leaf! } : {}),
    // A block holds angles in radians, whatever a dial shows.
    ...(param?.unit ? { unit: param.unit === 'deg' ? 'rad' : param.unit } : {}),
    value: [...values.subarray(slot.at, slot.at + slot.width)],
  };
}

/** @param effect without motifs @param whole with them, in which dials have their names */
function sourceInWords(source: ParamSource, effect: Effect, whole: Effect): string {
  switch (source.from) {
    case 'strand': {
      // What leaves knows no motifs: a number within one is named as its strand is, "Glow, Rim".
      const strand = strandsOf(effect).find((s) => s.id === source.strand)!;
      const note = handsOn(strand) ? undefined : inputRecord(operatorOf(strand.op), source.input)?.note;
      const dial = effect.dials.find((d) => d.strand === source.strand && d.input === source.input);
      const part = source.part === 'value' ? '' : `, ${source.part === 'rgb' ? 'hue' : 'intensity'}`;
      const input = handsOn(strand) ? '' : `, ${source.input}`;
      const turned = dial && whole.dials.find((d) => d.id === dial.id);
      return `${turned ? `dial "${dialLabel(whole, turned)}": ` : ''}${strand.name}${input}${part}${note ? ` (${note.replace(/\.$/, '')})` : ''}`;
    }
    case 'output':
      return `output ${source.output}`;
    case 'cue':
      return `cue of dial ${source.dial}, key ${source.key + 1}, ${source.part}`;
    case 'keys':
      return `keys of dial ${source.dial}`;
    case 'shared':
      return `shared dial ${source.shared}`;
    case 'firings':
      return `firings of trigger ${source.trigger}`;
    case 'duration':
      return `duration of trigger ${source.trigger}, in seconds`;
    case 'loop':
      return 'length of the loop, in seconds';
  }
}

const number = (x: number) => String(Number(x.toPrecision(6)));

/** What leaves draws the surface alone: whoever takes it in is told that the light which falls from it stays behind. */
export const spillNote = (effect: Effect): readonly string[] =>
  effect.outputs.emission
    ? ['Its emission lights what stands about it on a stage of Wispen; here lights of its shape and hue have to do that.']
    : [];

/** @returns the text, or the sentence of what is wrong with the sheet */
export function shareText(
  whole: Effect,
): { readonly ok: true; readonly text: string } | { readonly ok: false; readonly why: string } {
  const effect = flat(whole);
  const program = lower(effect, { build: 'live', writeCues: true });
  const [problem] = program.problems;
  if (problem) return { ok: false, why: problem.message };
  const text = emitGlsl(program, { hoist: false, lit: effect.finish.lighting === 'lit' });
  const values = fillBlock(text, paramValues(program.params, effect), 0, effect.loop);
  const about = text.slots.map((slot) => {
    const param = program.params.find((p) => slot.node.op === 'param' && p.at === slot.node.index);
    const words =
      slot.node.op === 'leaf'
        ? `${slot.node.leaf!}: ${LEAF_WORDS[slot.node.leaf!] ?? 'of the stage'}`
        : param
          ? sourceInWords(param.source, effect, whole)
          : 'computed once a frame';
    const value = [...values.subarray(slot.at, slot.at + slot.width)].map(number).join(', ');
    const unit = param?.unit === 'deg' ? ' rad' : param?.unit ? ` ${param.unit}` : '';
    return `${slotText(slot.at, slot.width).padEnd(10)} ${words}${slot.node.op === 'leaf' ? '' : ` = ${value}${unit}`}`;
  });
  const pair = shaderPair(text, effect.finish, `${effect.name}. Written by Wispen.`);
  const head = [
    `${effect.name}: GLSL ES 3.00, a vertex and a fragment shader.`,
    `Finish: ${effect.finish.alphaMode}, ${effect.finish.lighting}, sides ${effect.finish.sides}.`,
    ...spillNote(effect),
    '',
    'The uniform block Effect, std140, is an array of vec4 called k:',
    ...about.map((l) => `  ${l}`),
  ];
  const rule = '// ' + '-'.repeat(77);
  const comment = commentOf(head.join('\n'));
  return { ok: true, text: `${comment}\n\n${rule}\n// vertex\n${pair.vertex}\n${rule}\n// fragment\n${pair.fragment}` };
}
