/** Where the motes of a field are born that are born on a prop: places of its surface, and which of them may be asked of now. */
import { Matrix4, Quaternion, Vector3, type Mesh, type PerspectiveCamera } from 'three';
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js';
import type { Picture } from '../core/base/picture.js';
import { randomOf } from '../core/base/random.js';
import { SURFACE_LEAVES, type Leaf } from '../core/ir/leaves.js';
import type { Node } from '../core/ir/types.js';
import type { Program } from '../core/lower/lower.js';
import { restLeaves, type RestPoints } from '../core/places/surface.js';
import type { Admits, Births, MoteField } from '../core/scene/motes.js';
import type { Stage } from '../core/scene/stage.js';
import { numbersOf, steadyOf, type Worn } from '../core/scene/worn.js';
import { evaluatorOf, type Evaluator } from '../core/targets/evaluate.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import { pointsOn, standOf, type OnMesh } from './surface.js';

/** Places on a prop on which motes are born. */
const BIRTHS = 2048;

/** Places of a mesh, in a field's own space; as many as there are, always the same. */
export function birthsOn(mesh: Mesh, field: Matrix4): Births {
  const sampler = new MeshSurfaceSampler(mesh);
  let drawn = 0;
  (sampler as unknown as { setRandomGenerator(f: () => number): void }).setRandomGenerator(() => randomOf(++drawn));
  sampler.build();
  const births = new Float32Array(BIRTHS * 6);
  const [place, normal] = [new Vector3(), new Vector3()];
  mesh.updateMatrixWorld();
  const home = field.clone().invert();
  for (let k = 0; k < BIRTHS; k++) {
    sampler.sample(place, normal);
    place.applyMatrix4(mesh.matrixWorld).applyMatrix4(home);
    normal.transformDirection(mesh.matrixWorld).transformDirection(home);
    births.set([place.x, place.y, place.z, normal.x, normal.y, normal.z], k * 6);
  }
  return births;
}

/** Births in the space of the prop that they are on. */
function listed(births: Births, on: Mesh, home: Matrix4): OnMesh[] {
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

/** A strand that is asked, and of what is worn where. */
interface Asked {
  readonly worn: Worn;
  readonly node: Node;
  readonly name: string;
  readonly above: number;
}

function askedOf(all: readonly Worn[], { strand, port, above }: Where): Asked | undefined {
  const name = port === undefined ? strand : `${strand} ${port}`;
  for (const worn of all) {
    const node = numbersOf(worn).find((n) => n.id === name)?.node;
    if (node) return { worn, node, name, above };
  }
  return undefined;
}

/** Tells, of a strand of what a prop wears, where and when it is above a level. */
function admitsWhere(
  { worn, node, name, above }: Asked,
  leaves: LeafValues,
  steady: LeafValues,
  evaluators: WeakMap<Program, Map<string, Evaluator>>,
  pictures: ReadonlyMap<string, Picture>,
): Admits {
  const { program, params, shown } = worn;
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

export class MoteBirths {
  /** By field. */
  private readonly known = new Map<string, BirthPlaces>();
  private readonly evaluators = new WeakMap<Program, Map<string, Evaluator>>();

  constructor(
    private readonly camera: PerspectiveCamera,
    /** Of a piece. */
    private readonly meshOf: (piece: string) => Mesh | undefined,
    private readonly wholeOf: (prop: string) => Mesh | undefined,
    /** What the pieces of a prop wear. */
    private readonly wornOn: (prop: string) => readonly Worn[],
  ) {}

  /** The places of a field, and which of them count when; null each where it is born elsewhere, or everywhere. */
  of(
    stage: Stage,
    field: MoteField,
    pictures: ReadonlyMap<string, Picture>,
  ): { readonly places: Births | null; readonly admits: Admits | null } {
    const { from } = field;
    if (from.kind !== 'prop') return { places: null, admits: null };
    // A strand is asked on the piece that wears it.
    const asked = from.where && askedOf(this.wornOn(from.prop), from.where);
    const on = asked ? this.meshOf(asked.worn.prop) : this.wholeOf(from.prop);
    if (!on) return { places: null, admits: null };
    const home = new Matrix4().compose(new Vector3(...field.place), new Quaternion(...field.turn), new Vector3(1, 1, 1));
    const births = this.placesOn(field.id, on, home);
    if (!asked) return { places: births.places, admits: null };
    births.points ??= pointsOn(on.geometry, listed(births.places, on, home));
    const leaves = restLeaves(births.points, standOf(on, this.camera));
    const admits = admitsWhere(asked, leaves, steadyOf(stage, from.prop), this.evaluators, pictures);
    return { places: births.places, admits };
  }

  private placesOn(field: string, on: Mesh, home: Matrix4): BirthPlaces {
    const key = [on.geometry.id, ...on.matrixWorld.elements, ...home.elements].join();
    const known = this.known.get(field);
    if (known?.key === key) return known;
    const births: BirthPlaces = { key, places: birthsOn(on, home), points: null };
    this.known.set(field, births);
    return births;
  }

  forget(field: string): void {
    this.known.delete(field);
  }
}
