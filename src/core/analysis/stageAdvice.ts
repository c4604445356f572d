/** Findings about an effect on its stage that need no picture: what the prop is, and what stands around it. */
import { findOperator } from '../operators/catalogue.js';
import type { OperatorRecord } from '../operators/record.js';
import type { Mend } from '../effect/mends.js';
import { outputRecord } from '../effect/outputs.js';
import type { Effect } from '../effect/schema.js';
import { luminance } from '../optics/tone.js';
import type { Prop, Stage } from '../scene/stage.js';
import type { Leaf } from '../ir/leaves.js';
import type { Program } from '../lower/lower.js';
import { rates } from '../passes/rates.js';
import { round, type Advice } from './advice.js';
import { hullOf, type StrandReading } from './reading.js';

/** The effect reads paint, and nobody has painted. */
export const NO_PAINT = 'no-paint';

/** What is known of a prop's mesh. */
export interface PropAbout {
  readonly vertices: number;
  readonly hasColours: boolean;
  /** Metres from the middle of its box to a corner. */
  readonly radius: number;
  /** All of it in one plane. */
  readonly flat: boolean;
  /** Other props that are see-through themselves, by id. */
  readonly seeThrough: readonly string[];
}

const about = (
  strand: string | null,
  code: string,
  message: string,
  mend: string | null,
  more: Partial<Advice> = {},
): Advice => ({
  strand,
  code,
  message,
  mend,
  level: 'caution',
  edit: null,
  ...more,
});
const finish = (label: string, change: object): Mend => ({ label, edits: [{ kind: 'finish', change }] });

/** Fewer vertices than this cannot show a bend. Common practice, no source. */
const TOO_FEW = 60;

/** What the findings on a stage look at. */
interface Looked {
  readonly effect: Effect;
  readonly stage: Stage;
  readonly prop: Prop;
  readonly mesh: PropAbout;
  readonly readings: ReadonlyMap<string, StrandReading>;
  /** Whether the effect reads any of these. */
  readonly reads: (...wanted: readonly Leaf[]) => boolean;
  /** The first strand of an operator that looks at that. */
  readonly who: (what: OperatorRecord['looks']) => Effect['strands'][number] | undefined;
}

const BEHIND: readonly Leaf[] = ['depthGap', 'depthGapRay', 'depthGapDown', 'behind', 'behindPosition'];

export function adviseOnStage(
  effect: Effect,
  program: Program,
  readings: ReadonlyMap<string, StrandReading>,
  stage: Stage,
  prop: Prop,
  mesh: PropAbout,
): Advice[] {
  const roots = [...program.outputs.values()].map((o) => o.node);
  const leaves = new Set([...rates(roots).keys()].flatMap((n) => (n.op === 'leaf' ? [n.leaf!] : [])));
  const looked: Looked = {
    ...{ effect, stage, prop, mesh, readings },
    reads: (...wanted) => wanted.some((l) => leaves.has(l)),
    who: (what) => effect.strands.find((s) => findOperator(s.op)?.looks === what),
  };
  return [...behindFindings(looked), ...meshFindings(looked), ...movedFindings(looked), ...lightFindings(looked)];
}

function* behindFindings({ stage, prop, mesh, reads, who }: Looked): Iterable<Advice> {
  if (!reads(...BEHIND)) return;
  const opaque = stage.props.filter((p) => p.visible && p.id !== prop.id).length > 0 || stage.ground.on || stage.ground.wall;
  if (!opaque)
    yield about(
      null,
      'nothing-behind',
      `Nothing stands behind ${prop.name} on this stage, so a depth has nothing to show.`,
      'Add a prop, or the ground.',
    );
  const unseen = stage.props.filter((p) => mesh.seeThrough.includes(p.id)).map((p) => p.name);
  if (unseen.length > 0)
    yield about(
      who('behind')?.id ?? null,
      'see-through-behind',
      `${unseen.slice(0, 3).join(', ')} ${unseen.length === 1 ? 'is' : 'are'} see-through too: what ${prop.name} reads behind itself is the opaque scene, without ${unseen.length === 1 ? 'it' : 'them'}.`,
      'Draw it masked or dithered where it has to be seen through this one.',
      { level: 'note' },
    );
}

function* meshFindings({ effect, prop, mesh, reads, who }: Looked): Iterable<Advice> {
  if (reads('vertexColour') && !mesh.hasColours && prop.paint === null)
    yield about(
      who('paint')?.id ?? null,
      NO_PAINT,
      `${prop.name} has no vertex colours, so they read 1 everywhere.`,
      'Fill it along its height, paint it in the Stage room, or choose a mesh with COLOR_0.',
    );
  if (mesh.flat && effect.finish.sides === 'front')
    yield about(
      null,
      'one-sided',
      `${prop.name} is flat and one-sided: from behind, nothing of it is seen.`,
      'Draw both sides.',
      {
        level: 'note',
        edit: finish('Draw both sides', { sides: 'both' }),
      },
    );
  const viewing = who('angle');
  if (mesh.flat && viewing && reads('view'))
    yield about(
      viewing.id,
      'flat-rim',
      `${viewing.name} looks at the angle of sight, which is nearly the same all over the flat ${prop.name}.`,
      'Judge it on a rounded prop.',
      { level: 'note' },
    );
}

function* movedFindings({ effect, prop, mesh, readings }: Looked): Iterable<Advice> {
  const moved = effect.outputs.displacement;
  if (!moved || !('from' in moved)) return;
  const reading = readings.get(moved.from);
  const { low, high } = reading ? hullOf(reading.range) : { low: 0, high: 0 };
  const far = Math.max(Math.abs(low), Math.abs(high));
  if (far > mesh.radius)
    yield about(
      moved.from,
      'far-offset',
      `The displacement can move ${Number.isFinite(far) ? `${round(far)} m` : 'without bound'}, farther than ${prop.name} reaches (${round(mesh.radius)} m).`,
      'Look at it as a colour, or clamp it.',
      // Known by ranges alone, which see no further than each step: a quiet note.
      { level: 'note' },
    );
  if (mesh.vertices < TOO_FEW)
    yield about(
      moved.from,
      'few-vertices',
      `${prop.name} has ${mesh.vertices} vertices: too few to bend.`,
      'Choose a mesh with more, or another prop.',
    );
}

/** Rougher surfaces mirror nothing that could be made out; less metallic ones reflect too little of it. Common practice, no source. */
const GLOSSY = 0.35;
const METALLIC = 0.5;
/** Light from everywhere, in display whites at exposure 0, under which a lit surface is black to the eye. Common practice, no source. */
const DARK = 0.02;

/** What an output can be: of a strand its range, of a value itself; what it rests on where nothing is connected. */
function canBe({ effect, readings }: Looked, output: 'roughness' | 'metalness'): { low: number; high: number } {
  const input = effect.outputs[output];
  const [rest] = outputRecord(output).neutral;
  if (!input) return { low: rest!, high: rest! };
  if (!('from' in input)) return typeof input.value === 'number' ? { low: input.value, high: input.value } : { low: 0, high: 1 };
  const range = readings.get(input.from)?.range;
  return range ? hullOf(range) : { low: rest!, high: rest! };
}

/** What falls on a lit surface, and what it has to mirror. */
function* lightFindings(looked: Looked): Iterable<Advice> {
  const { effect, stage, prop } = looked;
  if (effect.finish.lighting !== 'lit') return;
  const { surroundings, lights, optics } = stage;
  const around = surroundings.strength * (surroundings.asset === null ? luminance(surroundings.rgb) : 1);
  const light = lights.reduce((sum, l) => sum + l.intensity * luminance(l.rgb), around) * 2 ** optics.exposure;
  const given = (['baseColour', 'roughness', 'metalness', 'normal'] as const).some((o) => effect.outputs[o] !== undefined);
  if (given && light < DARK)
    yield about(
      null,
      'in-the-dark',
      `Hardly any light falls on ${prop.name} on this stage, so of a lit surface nothing is seen but what it emits.`,
      'Raise the key light or the surroundings, or draw it unlit.',
      { edit: finish('Draw it unlit', { lighting: 'unlit' }) },
    );
  const shines = canBe(looked, 'roughness').low < GLOSSY || canBe(looked, 'metalness').high > METALLIC;
  if (shines && surroundings.asset === null)
    yield about(
      null,
      'nothing-to-mirror',
      `${prop.name} is glossy, and all around it is one colour: it has nothing to mirror but that.`,
      'Choose a picture as the light all around, in the stage’s settings.',
      { level: 'note' },
    );
}
