/**
 * What draws the props: a material for each program and finish that they wear, linked beside what is drawn and put on
 * when it is ready; and each prop's own numbers, in a block of its own. Dragging a number links nothing.
 */
import { Mesh, Scene, type PerspectiveCamera, type Material as GpuMaterial } from 'three';
import type { Picture } from '../core/base/picture.js';
import type { MoveBy } from '../core/places/surface.js';
import type { DrivenLight } from '../core/scene/driven.js';
import { SPILL_POINTS, type Material } from '../core/scene/materials.js';
import type { Stage } from '../core/scene/stage.js';
import { steadyOf, type Worn, type WornCopies, type WornMotes, type WornOnStage } from '../core/scene/worn.js';
import { fillBlock } from '../core/targets/block.js';
import { isSeeThrough } from '../core/targets/ending.js';
import { attributesOf, effectMaterial, programKey } from './effectMaterial.js';
import { fitted } from './geometry.js';
import type { Graphics } from './graphics.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import { MoteBirths } from './moteBirths.js';
import { MoteCopies, type LookOf } from './moteCopies.js';
import { MoteFields } from './motes.js';
import type { ProgramState } from './programState.js';
import type { Scenery } from './scenery.js';
import { shadowMaterial } from './shadowMaterial.js';
import { binding, upload } from './uniformBlock.js';

/** A material as the graphics card has it, and what it wants of a mesh. */
interface Linked {
  readonly material: GpuMaterial;
  readonly shadow: GpuMaterial | null;
  readonly attributes: readonly string[];
}

/** A prop, or a piece of one, as it is drawn. */
interface Drawn {
  readonly worn: Worn;
  /** The effect's numbers for this prop alone. */
  readonly buffer: WebGLBuffer;
}

/** What tells linked materials apart: what casts a shadow has a program for that too. */
const keyOf = ({ text, finish }: Material): string =>
  [programKey(text, finish), finish.alphaCutoff, finish.castsShadow].join(' ');

function discard({ material, shadow }: Linked): void {
  material.dispose();
  shadow?.dispose();
}

export class Dressing {
  /** How many programs have been linked for effects; dragging a number never raises it. */
  links = 0;
  private linked = new Map<string, Linked>();
  private readonly drawn = new Map<string, Drawn>();
  private turn = 0;
  private readonly moteFields: MoteFields;
  private readonly moteCopies: MoteCopies;

  constructor(
    private readonly graphics: Graphics,
    private readonly scenery: Scenery,
    private readonly state: ProgramState,
    private readonly camera: PerspectiveCamera,
  ) {
    const births = new MoteBirths(
      camera,
      (prop) => scenery.meshOf(prop),
      (prop) => scenery.meshes.wholeOf(prop),
      (prop) => scenery.meshes.piecesOf(prop).flatMap(({ mesh }) => this.on(mesh.userData.piece as string) ?? []),
    );
    this.moteFields = new MoteFields(graphics, scenery.motes, state, camera, births);
    this.moteCopies = new MoteCopies(graphics, scenery.motes, scenery, (one) => this.lookOf(one), births);
    scenery.meshes.onDrop = (prop) => this.undress(prop);
  }

  private undress(id: string): void {
    const drawn = this.drawn.get(id);
    if (drawn) this.graphics.gl.deleteBuffer(drawn.buffer);
    this.drawn.delete(id);
    const prop = this.scenery.props.get(id);
    if (!prop) return;
    const { mesh } = prop;
    mesh.material = this.scenery.meshes.bareOf(prop);
    mesh.geometry = prop.base;
    delete mesh.customDepthMaterial;
    mesh.frustumCulled = true;
    mesh.castShadow = true;
    mesh.renderOrder = 0;
    mesh.layers.set(OPAQUE);
    mesh.onBeforeRender = () => undefined;
    mesh.onBeforeShadow = () => undefined;
  }

  /**
   * Dresses the props; those not named become bare. Resolves when every program is ready and worn; until then all keep
   * what they have.
   * @param latest what is to be worn by then: numbers may have moved on while programs were made
   * @param copied what copies of props wear besides, in mote fields
   * @returns false when a later call overtook this one
   */
  async dress(
    all: readonly Worn[],
    latest: () => readonly Worn[] = () => all,
    copied: readonly WornCopies[] = [],
  ): Promise<boolean> {
    const turn = ++this.turn;
    const made = await this.link([...all, ...copied.flatMap(({ of }) => of.flatMap(({ worn }) => worn ?? []))]);
    if (turn !== this.turn) {
      for (const linked of made.values()) discard(linked);
      return false;
    }
    for (const [key, linked] of made) this.linked.set(key, linked);
    this.copies = copied;
    const now = new Map(latest().map((w) => [w.prop, w]));
    const dressed = new Set<string>();
    for (const worn of all) {
      const newer = now.get(worn.prop);
      if (this.put(newer?.material === worn.material ? newer : worn)) dressed.add(worn.prop);
    }
    for (const id of [...this.drawn.keys()]) if (!dressed.has(id)) this.undress(id);
    this.forgetUnused();
    this.scenery.glowing = new Set(this.drawn.keys());
    this.scenery.placeSpill();
    this.scenery.shadowsStale = true;
    return true;
  }

  /** Makes the materials that are not there yet, on stands of their own beside the scene. */
  private async link(all: readonly Worn[]): Promise<Map<string, Linked>> {
    const made = new Map<string, Linked>();
    const texts = new Set([...this.drawn.values()].map(({ worn: { material } }) => programKey(material.text, material.finish)));
    const rehearsal = new Scene();
    for (const { prop, material: wanted } of all) {
      const { text, finish } = wanted;
      const key = keyOf(wanted);
      const mesh = this.scenery.meshOf(prop);
      if (!mesh || this.linked.has(key) || made.has(key)) continue;
      const material = effectMaterial(text, finish, this.state);
      const shadow = finish.castsShadow ? shadowMaterial(text, finish, this.state) : null;
      made.set(key, { material, shadow, attributes: attributesOf(text) });
      // Another threshold of a mask is another material, and the same program.
      if (!texts.has(programKey(text, finish))) this.links += shadow ? 2 : 1;
      for (const part of shadow ? [material, shadow] : [material]) {
        const stand = new Mesh(mesh.geometry, part);
        stand.receiveShadow = true;
        stand.castShadow = true;
        rehearsal.add(stand);
      }
    }
    if (made.size > 0) await this.graphics.renderer.compileAsync(rehearsal, this.camera, this.scenery.scene);
    return made;
  }

  /** @returns false where there is no such prop */
  private put(worn: Worn): boolean {
    const { text, finish } = worn.material;
    const prop = this.scenery.props.get(worn.prop);
    const linked = this.linked.get(keyOf(worn.material));
    if (!prop || !linked) return false;
    const { gl } = this.graphics;
    const { mesh } = prop;
    const buffer = this.drawn.get(worn.prop)?.buffer ?? gl.createBuffer()!;
    this.drawn.set(worn.prop, { worn, buffer });
    mesh.material = linked.material;
    mesh.geometry = fitted(prop.base, linked.attributes);
    if (linked.shadow) mesh.customDepthMaterial = linked.shadow;
    else delete mesh.customDepthMaterial;
    // It may be anywhere: a surface that is moved is never taken to be out of sight.
    mesh.frustumCulled = text.vertex === null;
    mesh.castShadow = finish.castsShadow;
    mesh.renderOrder = finish.order;
    mesh.layers.set(isSeeThrough(finish) ? SEE_THROUGH : OPAQUE);
    mesh.onBeforeRender = mesh.onBeforeShadow = binding(gl, buffer);
    return true;
  }

  private forgetUnused(): void {
    const copied = this.copies.flatMap(({ of }) => of.flatMap(({ worn }) => worn ?? []));
    const used = new Set([...[...this.drawn.values()].map(({ worn }) => worn), ...copied].map((worn) => keyOf(worn.material)));
    for (const [key, linked] of this.linked)
      if (!used.has(key)) {
        discard(linked);
        this.linked.delete(key);
      }
  }

  private driven: readonly DrivenLight[] = [];
  private motes: readonly WornMotes[] = [];
  private copies: readonly WornCopies[] = [];

  /** Lights that effects drive and mote fields that are seen, from the next moment that is filled. */
  bring({ lights, motes, copies }: Pick<WornOnStage, 'lights' | 'motes' | 'copies'>): void {
    this.driven = lights;
    this.motes = motes;
    this.copies = copies;
  }

  /** How a copy of a prop is drawn; null until its program is ready. */
  private lookOf({ prop, worn }: WornCopies['of'][number]): ReturnType<LookOf> {
    const made = this.scenery.props.get(prop);
    if (!made) return null;
    if (!worn) return { material: this.scenery.meshes.bareOf(made), geometry: made.base };
    const linked = this.linked.get(keyOf(worn.material));
    return linked ? { material: linked.material, geometry: fitted(made.base, linked.attributes) } : null;
  }

  /** What is drawn in the same material takes its new numbers at once. */
  renumber(all: readonly Worn[]): void {
    for (const worn of all) {
      const drawn = this.drawn.get(worn.prop);
      if (drawn?.worn.material === worn.material) this.drawn.set(worn.prop, { ...drawn, worn });
    }
  }

  /** A prop as it is drawn now; undefined where it is bare. */
  on(prop: string): Worn | undefined {
    return this.drawn.get(prop)?.worn;
  }

  get materials(): Material[] {
    return [...this.drawn.values()].map(({ worn }) => worn.material);
  }

  /** What moves the vertices of a prop as it is drawn, at a moment; null where nothing does. */
  moveBy(stage: Stage, prop: string, time: number): MoveBy | null {
    const worn = this.on(prop);
    const movement = worn?.material.movement;
    if (!worn || !movement) return null;
    const still = { ...steadyOf(stage, prop), time: [time], loop: [worn.shown.loop ?? 0] };
    return (rest, count) => movement.at(worn.params, { ...rest, ...still }, count);
  }

  /** Gives every prop its numbers, and the stage its light, for a moment. @param time seconds */
  fill(stage: Stage, time: number, pictures: ReadonlyMap<string, Picture>): void {
    const { scenery } = this;
    const { spill } = scenery;
    scenery.lights.drive(new Map(this.driven.map((d) => [d.light, d.at(time)])));
    this.moteFields.fill(stage, this.motes, time, pictures);
    this.moteCopies.fill(stage, this.copies, time, pictures);
    scenery.motesSeen = this.moteFields.seen || this.moteCopies.seeThrough;
    const emissions = new Map<string, Float32Array[]>();
    for (const [prop, { worn, buffer }] of this.drawn) {
      const { material, params, shown } = worn;
      const own = steadyOf(stage, prop);
      upload(this.graphics.gl, buffer, fillBlock(material.text, params, time, shown.loop, own, pictures));
      // What moves or has holes casts another shadow with other numbers.
      if (scenery.meshOf(prop)?.customDepthMaterial) scenery.shadowsStale = true;
      if (!stage.spill.on || !material.emission) continue;
      const still = { ...own, time: [time], loop: [shown.loop ?? 0] };
      const planes = spill.placesOf(prop, this.moveBy(stage, prop, time));
      if (planes) {
        // The evaluator's numbers are its own until its next call: another prop may share it.
        const [light] = material.emission.view(params, { ...planes, ...still }, SPILL_POINTS);
        emissions.set(prop, spill.gather(prop, light!));
      }
    }
    spill.shine(emissions, stage.spill.on ? stage.spill.strength : 0);
  }

  dispose(): void {
    this.moteFields.dispose();
    this.moteCopies.dispose();
    for (const id of [...this.drawn.keys()]) this.undress(id);
    for (const linked of this.linked.values()) discard(linked);
  }
}
