/**
 * The props of a scene as meshes, in their pieces: each made of its primitive or of its file once that is at hand, with its
 * paint, and of the surface that its file or the stage says it has where it wears nothing.
 */
import { Color, Mesh, Vector3, type BufferGeometry, type Material, type MeshStandardMaterial, type Scene } from 'three';
import { own } from '../core/base/wholesome.js';
import { paintFor } from '../core/formats/paintFile.js';
import type { MeshData } from '../core/mesh/mesh.js';
import { partNames } from '../core/mesh/parts.js';
import type { Paint } from '../core/paint/paint.js';
import { WHOLE, namedParts, pieceOf, propIn } from '../core/scene/pieces.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import { MeshSurfaces, bareSurface } from './bareSurface.js';
import { cutOut, disposeGeometry, geometryFromMesh, geometryOf, paintedWith } from './geometry.js';
import { treeOf } from './rays.js';
import type { Shading } from './shading.js';

/** A prop, or a piece of one, as it stands in the scene. */
export interface PropMesh {
  readonly shape: string;
  readonly mesh: Mesh;
  /** The geometry of its prop as it is made, without paint. */
  readonly plain: BufferGeometry;
  /** The same with its paint. */
  readonly painted: BufferGeometry;
  /** All of the prop where it stands: not drawn where it is in pieces, else the mesh itself. */
  readonly whole: Mesh;
  /** Its own geometry as it is, without what the effect that it wears wants besides. */
  readonly base: BufferGeometry;
}

const hasTriangles = ({ base }: PropMesh): boolean => base.getIndex()?.count !== 0;

export class PropMeshes {
  /** By the ids of their pieces: a prop that is whole has one, its own. */
  readonly made = new Map<string, PropMesh>();
  /** The same by their props. */
  private readonly byProp = new Map<string, readonly PropMesh[]>();
  /** What a prop that wears nothing is made of. */
  readonly bare: MeshStandardMaterial;
  /** Called before a piece goes. */
  onDrop: (piece: string) => void = () => undefined;
  private readonly meshes = new Map<string, BufferGeometry>();
  private readonly surfaces = new Map<BufferGeometry, MeshSurfaces>();
  /** What the parts of meshes are called, in the order of their groups. */
  private readonly parts = new Map<BufferGeometry, readonly string[]>();
  private readonly paints = new Map<string, Paint>();
  /** Surfaces of props' own, by prop. */
  private readonly own = new Map<string, { readonly key: string; readonly material: MeshStandardMaterial }>();

  constructor(
    private readonly scene: Scene,
    private readonly shading: Shading,
  ) {
    this.bare = bareSurface(shading, { color: 0x808080, roughness: 0.6 });
  }

  /** All of a prop, whether it is in pieces or not; not to be drawn. */
  wholeOf(prop: string): Mesh | undefined {
    return this.made.get(prop)?.whole;
  }

  /** The pieces of a prop. */
  piecesOf(prop: string): readonly PropMesh[] {
    return this.byProp.get(prop) ?? [];
  }

  /** The piece of a prop that is nearest to a place. @param position in the prop's own space */
  pieceAt(prop: string, position: readonly [number, number, number]): string {
    const pieces = this.piecesOf(prop).filter(hasTriangles);
    if (pieces.length < 2) return (pieces[0]?.mesh.userData.piece as string | undefined) ?? prop;
    const place = new Vector3(...position);
    const away = ({ base }: PropMesh) => treeOf(base).closestPointToPoint(place)?.distance ?? Infinity;
    return pieces.map((p) => [away(p), p] as const).reduce((a, b) => (b[0] < a[0] ? b : a))[1].mesh.userData.piece as string;
  }

  /** Makes a mesh of the artist's own available; stages that refer to it show it when they are brought to it next. */
  provide(sha256: string, mesh: MeshData): void {
    if (this.meshes.has(sha256)) return;
    const geometry = geometryFromMesh(mesh);
    this.meshes.set(sha256, geometry);
    if (mesh.parts.length > 0) this.surfaces.set(geometry, new MeshSurfaces(this.shading, mesh, geometry));
    this.parts.set(geometry, partNames(mesh));
  }

  /** Makes the paint of props available. @param paint four numbers a vertex, and what fills its file's last row */
  providePaint(sha256: string, paint: Paint): void {
    this.paints.set(sha256, paint);
  }

  /** What a prop is made of that wears no effect. */
  bareOf({ mesh, plain }: Pick<PropMesh, 'mesh' | 'plain'>): Material | Material[] {
    return this.bareFor(mesh.userData.prop as string, plain);
  }

  private bareFor(prop: string, plain: BufferGeometry): Material | Material[] {
    return this.own.get(prop)?.material ?? this.surfaces.get(plain)?.materials ?? this.bare;
  }

  /** Gives a prop the surface that the stage says it has; one that wears an effect has it for later. */
  private bringSurface({ id, surface }: Prop): void {
    const key = surface ? JSON.stringify(surface) : '';
    const old = this.own.get(id);
    if ((old?.key ?? '') === key) return;
    const bare = this.piecesOf(id).filter((piece) => piece.mesh.material === this.bareOf(piece));
    this.own.delete(id);
    if (surface) {
      const { rgb, roughness, metalness } = surface;
      this.own.set(id, { key, material: bareSurface(this.shading, { color: new Color(...rgb), roughness, metalness }) });
    }
    for (const piece of bare) piece.mesh.material = this.bareOf(piece);
    old?.material.dispose();
  }

  /** Brings the props to a stage document; only what differs is made anew. @returns whether a prop's mesh was */
  bringTo(stage: Stage): boolean {
    for (const prop of stage.props) this.bringSurface(prop);
    const alive = new Set(stage.props.map((p) => p.id));
    for (const id of this.made.keys()) if (!alive.has(propIn(id))) this.drop(propIn(id));
    let remade = false;
    for (const p of stage.props) {
      const shape = this.shapeOf(stage, p);
      if (this.made.get(p.id)?.shape !== shape) {
        remade = true;
        this.dropPieces(p.id);
        const pieces = this.makeProp(stage, p).map((made) => ({ shape, ...made }));
        for (const made of pieces) this.made.set(made.mesh.userData.piece as string, made);
        this.byProp.set(p.id, pieces);
      }
      for (const piece of this.piecesOf(p.id)) {
        for (const mesh of new Set([piece.mesh, piece.whole])) {
          mesh.position.set(...p.place);
          mesh.quaternion.set(...p.turn);
          mesh.scale.set(...p.scale);
          mesh.updateMatrixWorld();
        }
        piece.mesh.visible = p.visible && hasTriangles(piece);
      }
    }
    return remade;
  }

  /** Whether a prop's mesh is the one it should have: its primitive, or its file once that is at hand. */
  private shapeOf(stage: Stage, prop: Prop): string {
    const { source } = prop;
    const sum = this.paintSum(stage, prop);
    const paint = `${sum} ${this.paints.has(sum)} ${JSON.stringify(namedParts(prop).map(({ part }) => part))}`;
    if (!('asset' in source)) return `${JSON.stringify(source)} ${paint}`;
    const sha = own(stage.assets, source.asset)?.sha256 ?? '';
    return `${sha} ${this.meshes.has(sha)} ${paint}`;
  }

  private paintSum(stage: Stage, { paint }: Prop): string {
    return paint === null ? '' : (own(stage.assets, paint)?.sha256 ?? '');
  }

  /** A prop in its pieces; without its paint where that is not at hand, or another mesh's. */
  private makeProp(stage: Stage, prop: Prop): Omit<PropMesh, 'shape'>[] {
    const { id, source } = prop;
    const plain = 'asset' in source ? this.meshes.get(own(stage.assets, source.asset)?.sha256 ?? '') : geometryOf(source);
    if (!plain) return [];
    const all = this.paints.get(this.paintSum(stage, prop));
    const paint = all ? paintFor(all, plain.getAttribute('position').count) : null;
    const painted = paint ? paintedWith(plain, paint) : plain;
    const names = this.parts.get(plain) ?? [];
    // What the mesh has no part for has no piece.
    const named = namedParts(prop).flatMap(({ part }) => (names.includes(part) ? [part] : []));
    const make = (part: string, base: BufferGeometry) => {
      const mesh = new Mesh<BufferGeometry, Material | Material[]>(base, this.bareFor(id, plain));
      mesh.castShadow = true;
      mesh.receiveShadow = true;
      mesh.userData.prop = id;
      mesh.userData.piece = pieceOf(id, part);
      this.scene.add(mesh);
      return { mesh, base, plain, painted };
    };
    if (named.length === 0) {
      const made = make(WHOLE, painted);
      return [{ ...made, whole: made.mesh }];
    }
    const whole = new Mesh(painted);
    whole.userData.prop = id;
    const rest = make(
      WHOLE,
      cutOut(painted, (k) => !named.includes(names[k]!)),
    );
    const pieces = named.map((part) =>
      make(
        part,
        cutOut(painted, (k) => names[k] === part),
      ),
    );
    return [rest, ...pieces].map((made) => ({ ...made, whole }));
  }

  /** A prop is on the stage no more. */
  private drop(id: string): void {
    this.dropPieces(id);
    this.own.get(id)?.material.dispose();
    this.own.delete(id);
  }

  private dropPieces(id: string): void {
    for (const { mesh, base, plain, painted } of this.piecesOf(id)) {
      const piece = mesh.userData.piece as string;
      this.onDrop(piece);
      mesh.removeFromParent();
      for (const geometry of new Set([base, plain, painted]))
        if (![...this.meshes.values()].includes(geometry)) disposeGeometry(geometry);
      this.made.delete(piece);
    }
    this.byProp.delete(id);
  }

  dispose(): void {
    for (const id of new Set([...this.made.keys()].map(propIn))) this.drop(id);
    this.bare.dispose();
    for (const surfaces of this.surfaces.values()) surfaces.dispose();
    for (const geometry of this.meshes.values()) disposeGeometry(geometry);
  }
}
