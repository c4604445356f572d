/**
 * Materials: an effect's program with its finish, made once for all sheets that differ in numbers only. What draws a
 * material knows its text; what it gives off and how it moves are evaluated beside, at the points of a surface.
 */
import type { Picture } from '../base/picture.js';
import type { Problem } from '../effect/read.js';
import type { Effect, Finish } from '../effect/schema.js';
import { skeletonOf } from '../effect/skeleton.js';
import { SURFACE_LEAVES } from '../ir/leaves.js';
import { Lineage, type Program } from '../lower/lower.js';
import { movementOf, type Movement } from '../places/surface.js';
import { budgetProblems } from '../targets/budgets.js';
import { evaluatorOf, type Evaluator } from '../targets/evaluate.js';
import { emitGlsl, type GlslText } from '../targets/glsl.js';

/** Points of a surface at which what it gives off is evaluated. */
export const SPILL_POINTS = 256;
/** Programs that are remembered: undo goes back to one that was. */
const REMEMBERED = 24;
/** Effects that are gone on with where they were. */
const LINEAGES = 8;
const OVER_SURFACE = new Set(SURFACE_LEAVES);

export interface Material {
  /** Tells materials apart, shortly. */
  readonly number: number;
  readonly text: GlslText;
  readonly finish: Finish;
  /** Radiance at `SPILL_POINTS` places; null where it gives off nothing. */
  readonly emission: Evaluator | null;
  /** What moves its vertices; null where nothing does. */
  readonly movement: Movement | null;
  /** Of motes: the factor of each one's size, and how far it is set off; null where neither is given, and of surfaces. */
  readonly mote: { readonly evaluator: Evaluator; readonly size: boolean; readonly offset: boolean } | null;
}

/** A sheet with the options of a prop, lowered. */
export interface Made {
  readonly program: Program;
  readonly problems: readonly Problem[];
  /** Null where there are problems. */
  readonly material: Material | null;
}

const signatureOf = (
  program: Program,
  { lighting, sides, castsShadow, writesDepth, alphaMode, alphaCutoff, order }: Finish,
): string => [program.signature, lighting, sides, castsShadow, writesDepth, alphaMode, alphaCutoff, order].join('|');

/** The light it gives: of a surface that is partly there, that part. */
function emissionOf(program: Program, { alphaMode }: Finish, pictures: ReadonlyMap<string, Picture>): Evaluator | null {
  const port = program.outputs.get('emission');
  const { builder: b } = program;
  const opacity = alphaMode === 'opaque' ? undefined : program.outputs.get('opacity')?.node;
  const light = port && opacity ? b.mul(port.node, b.composite('clamp', opacity, 0, 1)) : port?.node;
  return light ? evaluatorOf(program, [light], OVER_SURFACE, SPILL_POINTS, pictures) : null;
}

/** What motes of an effect are besides their light. */
function moteOf(program: Program, pictures: ReadonlyMap<string, Picture>): Material['mote'] {
  const [size, offset] = [program.outputs.get('size')?.node, program.outputs.get('offset')?.node];
  const roots = [size, offset].filter((node) => node !== undefined);
  if (roots.length === 0) return null;
  return {
    evaluator: evaluatorOf(program, roots, OVER_SURFACE, undefined, pictures),
    ...{ size: size !== undefined, offset: offset !== undefined },
  };
}

export class Materials {
  /** By what makes them: numbers are no part of it. */
  private readonly made = new Map<string, Made>();
  private readonly materials = new Map<string, Material>();
  private readonly lineages = new Map<string, Lineage>();
  private count = 0;

  /** @param pictures images that are at hand, by key; read whenever something is evaluated */
  constructor(readonly pictures: ReadonlyMap<string, Picture>) {}

  /** The program and the material of an effect, whatever its numbers are. */
  of(shown: Effect): Made {
    const key = `${skeletonOf(shown)}\n${JSON.stringify(shown.finish)}`;
    const made = this.made.get(key) ?? this.make(shown);
    // The last to be asked for are the last to be forgotten.
    this.made.delete(key);
    this.made.set(key, made);
    for (const old of this.made.keys()) {
      if (this.made.size <= REMEMBERED) break;
      this.made.delete(old);
    }
    return made;
  }

  /** An effect that is edited is lowered from where it was. */
  private lineageOf(effect: string): Lineage {
    const lineage = this.lineages.get(effect) ?? new Lineage();
    this.lineages.delete(effect);
    this.lineages.set(effect, lineage);
    for (const old of this.lineages.keys()) {
      if (this.lineages.size <= LINEAGES) break;
      this.lineages.delete(old);
    }
    return lineage;
  }

  private make(shown: Effect): Made {
    const program = this.lineageOf(shown.id).lower(shown);
    const { problems } = program;
    if (problems.length > 0) return { program, problems, material: null };
    const isMote = shown.kind === 'mote';
    const signature = `${isMote ? 'motes ' : ''}${signatureOf(program, shown.finish)}`;
    const known = this.materials.get(signature);
    if (known) return { program, problems, material: known };
    const text = emitGlsl(program, {
      ...{ hoist: true, naming: 'ids', lit: !isMote && shown.finish.lighting === 'lit' },
      // Where they are and how large is worked out with where they go.
      ...(isMote ? { only: ['emission', 'opacity', 'baseColour'] as const } : {}),
    });
    const beyond = budgetProblems(text);
    if (beyond.length > 0) return { program, problems: beyond, material: null };
    const material: Material = {
      number: ++this.count,
      text,
      finish: shown.finish,
      emission: isMote ? null : emissionOf(program, shown.finish, this.pictures),
      mote: isMote ? moteOf(program, this.pictures) : null,
      movement: movementOf(program, SPILL_POINTS, this.pictures),
    };
    this.materials.set(signature, material);
    return { program, problems, material };
  }

  /** Materials that nobody uses any more are forgotten, once their programs are. */
  keepOnly(used: ReadonlySet<Material>): void {
    for (const [signature, material] of this.materials) if (!used.has(material)) this.materials.delete(signature);
  }
}
