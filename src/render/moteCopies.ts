/**
 * Mote fields whose motes are copies of props: each where its mote is, facing its way, with the numbers of what it wears
 * and a random number of its own. A copy's front is +z and its top +y, as glTF 2.0 has them (3.4), of the prop as it stands.
 */
import { Matrix4, Mesh, Quaternion, Vector3, type Group, type Material as GpuMaterial } from 'three';
import type { Picture } from '../core/base/picture.js';
import { MotesOf, type Motes } from '../core/scene/motes.js';
import type { Stage } from '../core/scene/stage.js';
import type { WornCopies } from '../core/scene/worn.js';
import { fillBlock } from '../core/targets/block.js';
import type { Graphics } from './graphics.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import { isSeeThrough } from '../core/targets/ending.js';
import type { MoteBirths } from './moteBirths.js';
import type { Scenery } from './scenery.js';
import { binding, upload } from './uniformBlock.js';

/** The share of its life over which a copy grows, and shrinks at its end: nothing pops. */
const GROWS = 0.06;

interface Copy {
  readonly mesh: Mesh;
  readonly buffer: WebGLBuffer;
}

/** What a field's motes were drawn as at its last moment. */
interface Copied {
  readonly motes: MotesOf;
  /** By prop: as many as have been needed. */
  readonly of: Map<string, Copy[]>;
}

/** How a prop is drawn: its material, and its geometry as that wants it. */
export type LookOf = (
  of: WornCopies['of'][number],
) => { readonly material: GpuMaterial | GpuMaterial[]; readonly geometry: Mesh['geometry'] } | null;

export class MoteCopies {
  private readonly fields = new Map<string, Copied>();

  constructor(
    private readonly graphics: Graphics,
    private readonly group: Group,
    private readonly scenery: Scenery,
    private readonly lookOf: LookOf,
    private readonly births: MoteBirths,
  ) {}

  /** Brings the fields to a moment. @param time seconds */
  fill(stage: Stage, all: readonly WornCopies[], time: number, pictures: ReadonlyMap<string, Picture>): void {
    const alive = new Set(all.map(({ field }) => field.id));
    for (const id of this.fields.keys()) if (!alive.has(id)) this.drop(id);
    for (const copies of all) this.fillField(stage, copies, time, pictures);
  }

  private fillField(stage: Stage, copies: WornCopies, time: number, pictures: ReadonlyMap<string, Picture>): void {
    const { field, of } = copies;
    const known = this.fields.get(field.id) ?? { motes: new MotesOf(), of: new Map<string, Copy[]>() };
    this.fields.set(field.id, known);
    const loop = of.find((one) => one.worn)?.worn?.shown.loop ?? null;
    const { places, admits } = this.births.of(stage, field, pictures);
    const motes = known.motes.at(field, time, loop, [], places, admits);
    const first = this.scenery.meshOf(of[0]!.prop);
    const placed = first ? this.placed(copies, motes, first) : [];
    for (const one of of) this.bring(known, one, placed, motes, time, pictures);
    for (const prop of known.of.keys()) if (!of.some((one) => one.prop === prop)) this.dropOf(known, prop);
  }

  /** What takes the props as they stand to where each mote is. */
  private placed({ field, of }: WornCopies, { count, centre, velocity, mote, body }: Motes, first: Mesh): Matrix4[] {
    const anchor = new Vector3().setFromMatrixPosition(first.matrixWorld);
    const back = new Matrix4().makeTranslation(anchor.clone().negate());
    const base = new Matrix4().compose(new Vector3(...field.place), new Quaternion(...field.turn), new Vector3(1, 1, 1));
    const whole = this.radiusOf(
      of.map((one) => one.prop),
      anchor,
    );
    const [ahead, up, side, top] = [new Vector3(), new Vector3(0, 1, 0), new Vector3(), new Vector3()];
    return Array.from({ length: count }, (_, k) => {
      ahead.fromArray(velocity, k * 3);
      if (ahead.lengthSq() < 1e-12) ahead.set(0, 0, 1);
      ahead.normalize();
      side.crossVectors(up, ahead);
      if (side.lengthSq() < 1e-8) side.set(1, 0, 0);
      side.normalize();
      top.crossVectors(ahead, side);
      const age = mote[k * 3]!;
      const grown = Math.min(1, age / GROWS, (1 - age) / GROWS);
      const size = Math.max(1e-6, (body[k * 2]! / whole) * grown);
      return new Matrix4()
        .makeBasis(side, top, ahead)
        .scale(new Vector3(size, size, size))
        .setPosition(centre[k * 3]!, centre[k * 3 + 1]!, centre[k * 3 + 2]!)
        .premultiply(base)
        .multiply(back);
    });
  }

  /** How far the props reach from a point, in metres. */
  private radiusOf(props: readonly string[], from: Vector3): number {
    let radius = 1e-6;
    for (const prop of props) {
      const room = this.scenery.roomOf(prop);
      if (room) radius = Math.max(radius, ...[room.low, room.high].map((corner) => new Vector3(...corner).distanceTo(from)));
    }
    return radius;
  }

  private bring(
    known: Copied,
    one: WornCopies['of'][number],
    placed: readonly Matrix4[],
    motes: Motes,
    time: number,
    pictures: ReadonlyMap<string, Picture>,
  ): void {
    const own = this.scenery.meshOf(one.prop);
    const look = own ? this.lookOf(one) : null;
    const list = known.of.get(one.prop) ?? [];
    known.of.set(one.prop, list);
    while (look && list.length < placed.length) list.push(this.make());
    list.forEach(({ mesh, buffer }, k) => {
      mesh.visible = look !== null && k < placed.length;
      if (!mesh.visible) return;
      mesh.material = look!.material;
      mesh.geometry = look!.geometry;
      mesh.matrix.multiplyMatrices(placed[k]!, own!.matrixWorld);
      mesh.layers.set(one.worn && isSeeThrough(one.worn.material.finish) ? SEE_THROUGH : OPAQUE);
      if (!one.worn) return;
      const { material, params, shown } = one.worn;
      const steady = { propRandom: [motes.mote[k * 3 + 1]!] };
      upload(this.graphics.gl, buffer, fillBlock(material.text, params, time, shown.loop, steady, pictures));
      mesh.onBeforeRender = binding(this.graphics.gl, buffer);
    });
  }

  private make(): Copy {
    const mesh = new Mesh();
    mesh.matrixAutoUpdate = false;
    mesh.receiveShadow = true;
    // It may be moved by what it wears.
    mesh.frustumCulled = false;
    this.group.add(mesh);
    return { mesh, buffer: this.graphics.gl.createBuffer()! };
  }

  /** Whether some are drawn over the opaque scene. */
  get seeThrough(): boolean {
    return [...this.fields.values()].some(({ of }) =>
      [...of.values()].some((list) => list.some(({ mesh }) => mesh.visible && mesh.layers.isEnabled(SEE_THROUGH))),
    );
  }

  private dropOf(known: Copied, prop: string): void {
    for (const { mesh, buffer } of known.of.get(prop) ?? []) {
      mesh.removeFromParent();
      this.graphics.gl.deleteBuffer(buffer);
    }
    known.of.delete(prop);
  }

  private drop(id: string): void {
    const known = this.fields.get(id);
    if (known) for (const prop of [...known.of.keys()]) this.dropOf(known, prop);
    this.fields.delete(id);
    this.births.forget(id);
  }

  dispose(): void {
    for (const id of [...this.fields.keys()]) this.drop(id);
  }
}
