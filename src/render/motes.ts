/** Mote fields as they are drawn: one call each, their places worked out on the CPU at every moment. */
import {
  DynamicDrawUsage,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  BufferAttribute,
  Mesh,
  Vector3,
  type Group,
  type PerspectiveCamera,
  type Material,
} from 'three';
import type { Picture } from '../core/base/picture.js';
import { randomOf } from '../core/base/random.js';
import { MotesOf, farthestFirst, type Motes } from '../core/scene/motes.js';
import type { Stage } from '../core/scene/stage.js';
import type { WornMotes } from '../core/scene/worn.js';
import { fillBlock } from '../core/targets/block.js';
import { attributesOf } from './effectMaterial.js';
import type { Graphics } from './graphics.js';
import { SEE_THROUGH } from './layers.js';
import type { MoteBirths } from './moteBirths.js';
import { moteMaterial, type MoteUniforms } from './moteMaterial.js';
import type { ProgramState } from './programState.js';
import { binding, upload } from './uniformBlock.js';

/** Numbers that each mote has, by attribute. */
const WIDTHS = { centre: 3, velocity: 3, mote: 3, body: 2 } as const;
type Attribute = keyof typeof WIDTHS;
const ATTRIBUTES = Object.keys(WIDTHS) as Attribute[];

interface Blown {
  readonly key: string;
  readonly mesh: Mesh<InstancedBufferGeometry, Material>;
  readonly uniforms: MoteUniforms;
  readonly buffer: WebGLBuffer;
  readonly motes: MotesOf;
  /** What its program reads of each mote: the rest need not go to the card. */
  readonly reads: readonly Attribute[];
  room: number;
}

export class MoteFields {
  private readonly blown = new Map<string, Blown>();

  constructor(
    private readonly graphics: Graphics,
    private readonly group: Group,
    private readonly state: ProgramState,
    private readonly camera: PerspectiveCamera,
    private readonly births: MoteBirths,
  ) {}

  /** Brings the fields to a moment. @param time seconds */
  fill(stage: Stage, all: readonly WornMotes[], time: number, pictures: ReadonlyMap<string, Picture>): void {
    const alive = new Set(all.map(({ field }) => field.id));
    for (const id of this.blown.keys()) if (!alive.has(id)) this.drop(id);
    for (const worn of all) this.blow(stage, worn, time, pictures);
  }

  private blow(stage: Stage, worn: WornMotes, time: number, pictures: ReadonlyMap<string, Picture>): void {
    const { field, material, params, shown } = worn;
    const blown = this.of(worn);
    const { mesh } = blown;
    mesh.position.set(...field.place);
    mesh.quaternion.set(...field.turn);
    mesh.renderOrder = shown.finish.order;
    mesh.updateMatrixWorld();
    const own = { propRandom: [randomOf(field.seed)] };
    upload(this.graphics.gl, blown.buffer, fillBlock(material.text, params, time, shown.loop, own, pictures));
    const fired = shown.triggers.find((t) => t.id === field.burst?.trigger)?.at ?? [];
    const { places, admits } = this.births.of(stage, field, pictures);
    const motes = blown.motes.at(field, time, shown.loop, fired, places, admits);
    this.dress(worn, motes, time);
    const { uniforms } = blown;
    uniforms.streak.value = field.shape.kind === 'streak' ? field.shape.seconds : 0;
    uniforms.soft.value = field.soft;
    this.put(blown, motes, shown.finish.alphaMode !== 'add');
  }

  /** What the effect says of each mote's size, and how far it is set off. */
  private dress({ field, material: { mote }, params, shown }: WornMotes, motes: Motes, time: number): void {
    if (!mote || motes.count === 0) return;
    const { count, centre, body } = motes;
    const lane = (of: Float32Array, width: number, at: number) =>
      Float32Array.from({ length: count }, (_, k) => of[k * width + at]!);
    const leaves = {
      position: [0, 1, 2].map((at) => lane(centre, 3, at)),
      ...{ moteAge: [lane(motes.mote, 3, 0)], moteRandom: [lane(motes.mote, 3, 1)], moteIndex: [lane(motes.mote, 3, 2)] },
      ...{ time: [time], loop: [shown.loop ?? 0], propRandom: [randomOf(field.seed)] },
    };
    const values = mote.evaluator.evaluate(params, leaves, count);
    const sizes = mote.size ? values[0]![0]! : null;
    const offsets = mote.offset ? values[mote.size ? 1 : 0]! : null;
    for (let k = 0; k < count; k++) {
      if (sizes) body[k * 2] = Math.max(0, sizes[k]!);
      if (offsets) for (let axis = 0; axis < 3; axis++) centre[k * 3 + axis]! += offsets[axis]![k]!;
    }
  }

  /** The field's own sheets, made anew where its program or its shape is another. */
  private of({ field, material, shown }: WornMotes): Blown {
    const key = [material.number, field.shape.kind, field.soft > 0, shown.finish.alphaMode, shown.finish.lighting].join();
    const known = this.blown.get(field.id);
    if (known?.key === key) return known;
    this.drop(field.id);
    const geometry = new InstancedBufferGeometry();
    geometry.setAttribute('corner', new BufferAttribute(new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]), 3));
    geometry.setIndex([0, 1, 2, 0, 2, 3]);
    const reads = ATTRIBUTES.filter(
      (name) =>
        (name !== 'velocity' || field.shape.kind === 'streak') &&
        (name !== 'mote' || attributesOf(material.text).includes('mote')),
    );
    const made = moteMaterial(material.text, shown.finish, field, this.state);
    const mesh = new Mesh(geometry, made.material);
    mesh.receiveShadow = true;
    mesh.frustumCulled = false;
    mesh.layers.set(SEE_THROUGH);
    const buffer = this.graphics.gl.createBuffer()!;
    mesh.onBeforeRender = binding(this.graphics.gl, buffer);
    this.group.add(mesh);
    const blown: Blown = { key, mesh, uniforms: made.uniforms, buffer, motes: new MotesOf(), reads, room: 0 };
    this.blown.set(field.id, blown);
    return blown;
  }

  private put(blown: Blown, motes: Motes, sorted: boolean): void {
    const { geometry } = blown.mesh;
    const { count } = motes;
    if (count > blown.room) {
      blown.room = Math.ceil(count * 1.25);
      // A longer list is a new one on the card.
      geometry.dispose();
      for (const name of ATTRIBUTES) {
        const attribute = new InstancedBufferAttribute(new Float32Array(blown.room * WIDTHS[name]), WIDTHS[name]);
        attribute.setUsage(DynamicDrawUsage);
        geometry.setAttribute(name, attribute);
      }
    }
    geometry.instanceCount = count;
    blown.mesh.visible = count > 0;
    if (count === 0) return;
    const order = sorted ? farthestFirst(motes, this.ahead(blown.mesh)) : null;
    for (const name of blown.reads) {
      const attribute = geometry.getAttribute(name) as InstancedBufferAttribute;
      const [to, from, width] = [attribute.array, motes[name], WIDTHS[name]];
      if (!order) to.set(from.subarray(0, count * width));
      else
        for (let k = 0; k < count; k++)
          for (let lane = 0; lane < width; lane++) to[k * width + lane] = from[order[k]! * width + lane]!;
      attribute.clearUpdateRanges();
      attribute.addUpdateRange(0, count * width);
      attribute.needsUpdate = true;
    }
  }

  /** Which way the eye looks, in the field's own space. */
  private ahead(mesh: Mesh): [number, number, number] {
    const { x, y, z } = this.camera.getWorldDirection(new Vector3()).applyQuaternion(mesh.quaternion.clone().invert());
    return [x, y, z];
  }

  /** Whether some are drawn. */
  get seen(): boolean {
    return [...this.blown.values()].some(({ mesh }) => mesh.visible);
  }

  private drop(id: string): void {
    const blown = this.blown.get(id);
    if (!blown) return;
    this.graphics.gl.deleteBuffer(blown.buffer);
    blown.mesh.removeFromParent();
    blown.mesh.geometry.dispose();
    blown.mesh.material.dispose();
    this.blown.delete(id);
    this.births.forget(id);
  }

  dispose(): void {
    for (const id of [...this.blown.keys()]) this.drop(id);
  }
}
