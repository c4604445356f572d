/** Mote fields as they are drawn: one call each, their places worked out on the CPU at every moment. */
import {
  DynamicDrawUsage,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  BufferAttribute,
  Matrix4,
  Mesh,
  Quaternion,
  Vector3,
  type Group,
  type PerspectiveCamera,
  type RawShaderMaterial,
} from 'three';
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js';
import type { Picture } from '../core/base/picture.js';
import { randomOf } from '../core/base/random.js';
import { SURFACE_LEAVES, type Leaf } from '../core/ir/leaves.js';
import type { Program } from '../core/lower/lower.js';
import { restLeaves, type RestPoints } from '../core/places/surface.js';
import { MotesOf, farthestFirst, type Admits, type Births, type MoteField, type Motes } from '../core/scene/motes.js';
import type { Stage } from '../core/scene/stage.js';
import { numbersOf, steadyOf, type Worn, type WornMotes } from '../core/scene/worn.js';
import { evaluatorOf, type Evaluator } from '../core/targets/evaluate.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import { fillBlock } from '../core/targets/block.js';
import { attributesOf } from './effectMaterial.js';
import type { Graphics } from './graphics.js';
import { SEE_THROUGH } from './layers.js';
import { moteMaterial } from './moteMaterial.js';
import type { ProgramState } from './programState.js';
import { pointsOn, standOf, type OnMesh } from './surface.js';
import { binding, upload } from './uniformBlock.js';

/** Places on a prop on which motes are born. */
const BIRTHS = 2048;
/** Numbers that each mote has, by attribute. */
const WIDTHS = { centre: 3, velocity: 3, mote: 3, body: 2 } as const;
type Attribute = keyof typeof WIDTHS;
const ATTRIBUTES = Object.keys(WIDTHS) as Attribute[];

interface Blown {
  readonly key: string;
  readonly mesh: Mesh<InstancedBufferGeometry, RawShaderMaterial>;
  readonly buffer: WebGLBuffer;
  readonly motes: MotesOf;
  /** What its program reads of each mote: the rest need not go to the card. */
  readonly reads: readonly Attribute[];
  room: number;
}

/** Places of a mesh, in a field's own space; as many as there are, always the same. */
function birthsOn(mesh: Mesh, field: Mesh): Births {
  const sampler = new MeshSurfaceSampler(mesh);
  let drawn = 0;
  (sampler as unknown as { setRandomGenerator(f: () => number): void }).setRandomGenerator(() => randomOf(++drawn));
  sampler.build();
  const births = new Float32Array(BIRTHS * 6);
  const [place, normal] = [new Vector3(), new Vector3()];
  mesh.updateMatrixWorld();
  field.updateMatrixWorld();
  const home = field.matrixWorld.clone().invert();
  for (let k = 0; k < BIRTHS; k++) {
    sampler.sample(place, normal);
    place.applyMatrix4(mesh.matrixWorld).applyMatrix4(home);
    normal.transformDirection(mesh.matrixWorld).transformDirection(home);
    births.set([place.x, place.y, place.z, normal.x, normal.y, normal.z], k * 6);
  }
  return births;
}

/** Births in the space of the prop that they are on. */
function listed(births: Births, on: Mesh, { place, turn }: MoteField): OnMesh[] {
  const home = new Matrix4().compose(new Vector3(...place), new Quaternion(...turn), new Vector3(1, 1, 1));
  const into = new Matrix4().copy(on.matrixWorld).invert().multiply(home);
  return Array.from({ length: births.length / 6 }, (_, k) => ({
    position: new Vector3()
      .fromArray(births, k * 6)
      .applyMatrix4(into)
      .toArray(),
  }));
}

/** What is known of a prop on which motes are born. */
interface BirthPlaces {
  readonly key: string;
  readonly places: Births;
  /** The same places as effects read them, made when they are asked for. */
  points: RestPoints | null;
}

type Where = NonNullable<Extract<MoteField['from'], { kind: 'prop' }>['where']>;

/** Tells, of a strand of what a prop wears, where and when it is above a level. */
function admitsWhere(
  { program, params, shown }: Worn,
  { strand, port, above }: Where,
  leaves: LeafValues,
  steady: LeafValues,
  evaluators: WeakMap<Program, Map<string, Evaluator>>,
  pictures: ReadonlyMap<string, Picture>,
): Admits | null {
  const name = port === undefined ? strand : `${strand} ${port}`;
  const node = numbersOf({ shown, program }).find((n) => n.id === name)?.node;
  if (!node) return null;
  const known = evaluators.get(program) ?? new Map<string, Evaluator>();
  evaluators.set(program, known);
  const evaluator =
    known.get(name) ?? evaluatorOf(program, [node], new Set<Leaf>([...SURFACE_LEAVES, 'time']), undefined, pictures);
  known.set(name, evaluator);
  return (places, times, count) => {
    const at = Object.fromEntries(
      Object.entries(leaves).map(([leaf, lanes]) => [
        leaf,
        lanes.map((lane) =>
          typeof lane === 'number' ? lane : Float32Array.from({ length: count }, (_, k) => lane[places[k]!]!),
        ),
      ]),
    );
    const values = evaluator.evaluate(
      params,
      { ...at, ...steady, time: [times.subarray(0, count)], loop: [shown.loop ?? 0] },
      count,
    );
    return (mote) => values[0]![0]![mote]! > above;
  };
}

export class MoteFields {
  private readonly blown = new Map<string, Blown>();
  /** Places on props, by what they hang on. */
  private readonly births = new Map<string, BirthPlaces>();
  private readonly evaluators = new WeakMap<Program, Map<string, Evaluator>>();

  constructor(
    private readonly graphics: Graphics,
    private readonly group: Group,
    private readonly state: ProgramState,
    private readonly camera: PerspectiveCamera,
    private readonly meshOf: (prop: string) => Mesh | undefined,
    private readonly wornOn: (prop: string) => Worn | undefined,
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
    const births = this.birthsFor(worn, mesh);
    const admits = births && this.admits(stage, worn, births, pictures);
    const motes = blown.motes.at(field, time, shown.loop, fired, births?.places ?? null, admits);
    this.dress(worn, motes, time);
    const { uniforms } = mesh.material;
    uniforms.streak!.value = field.shape.kind === 'streak' ? field.shape.seconds : 0;
    uniforms.soft!.value = field.soft;
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

  /** Whether its motes are born where they would be, by a strand of what their prop wears; null where they all are. */
  private admits(stage: Stage, { field }: WornMotes, births: BirthPlaces, pictures: ReadonlyMap<string, Picture>): Admits | null {
    if (field.from.kind !== 'prop' || !field.from.where) return null;
    const { prop, where } = field.from;
    const [on, worn] = [this.meshOf(prop), this.wornOn(prop)];
    if (!on || !worn) return null;
    births.points ??= pointsOn(on.geometry, listed(births.places, on, field));
    const leaves = restLeaves(births.points, standOf(on, this.camera));
    return admitsWhere(worn, where, leaves, steadyOf(stage, prop), this.evaluators, pictures);
  }

  private birthsFor({ field }: WornMotes, mesh: Mesh): BirthPlaces | null {
    if (field.from.kind !== 'prop') return null;
    const on = this.meshOf(field.from.prop);
    if (!on) return null;
    const key = [on.geometry.id, ...on.matrixWorld.elements, ...mesh.matrixWorld.elements].join();
    const known = this.births.get(field.id);
    if (known?.key === key) return known;
    const births: BirthPlaces = { key, places: birthsOn(on, mesh), points: null };
    this.births.set(field.id, births);
    return births;
  }

  /** The field's own sheets, made anew where its program or its shape is another. */
  private of({ field, material, shown }: WornMotes): Blown {
    const key = [material.number, field.shape.kind, field.soft > 0, shown.finish.alphaMode].join();
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
    const mesh = new Mesh(geometry, moteMaterial(material.text, shown.finish, field, this.state));
    mesh.frustumCulled = false;
    mesh.layers.set(SEE_THROUGH);
    const buffer = this.graphics.gl.createBuffer()!;
    mesh.onBeforeRender = binding(this.graphics.gl, buffer);
    this.group.add(mesh);
    const blown: Blown = { key, mesh, buffer, motes: new MotesOf(), reads, room: 0 };
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
    this.births.delete(id);
  }

  /** After a lost context everything is made anew. */
  forget(): void {
    for (const { mesh } of this.blown.values()) mesh.removeFromParent();
    this.blown.clear();
  }

  dispose(): void {
    for (const id of [...this.blown.keys()]) this.drop(id);
  }
}
