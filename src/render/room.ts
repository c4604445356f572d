/** A plain room to see an effect in: a floor, and a wall of plates with ribs between them. */
import {
  BoxGeometry,
  Color,
  Group,
  Mesh,
  PlaneGeometry,
  type BufferGeometry,
  type Material,
  type MeshStandardMaterial,
} from 'three';
import { bareSurface } from './bareSurface.js';
import type { Shading } from './shading.js';
import type { Stage } from '../core/scene/stage.js';

const PLATES = 9;
const PLATE = { width: 0.96, height: 2.6, depth: 0.05, pitch: 1.02 };

export function makeRoom({ on, wall, rgb, roughness }: Stage['ground'], shading: Shading): Group {
  const room = new Group();
  if (!on) return room;
  const floorMaterial = bareSurface(shading, { color: new Color(...rgb), roughness, metalness: 0 });
  const floor = new Mesh(new PlaneGeometry(24, 24), floorMaterial);
  floor.rotation.x = -Math.PI / 2;
  floor.receiveShadow = true;
  room.add(floor);
  if (!wall) return room;
  const plate = bareSurface(shading, {
    color: new Color(...rgb).multiplyScalar(0.9),
    roughness: roughness * 0.85,
    metalness: 0.15,
  });
  const dark = bareSurface(shading, { color: new Color(...rgb).multiplyScalar(0.35), roughness: 0.9, metalness: 0 });
  const add = (geometry: BoxGeometry, material: MeshStandardMaterial, x: number, y: number, z: number) => {
    const mesh = new Mesh(geometry, material);
    mesh.position.set(x, y, z);
    mesh.receiveShadow = true;
    mesh.castShadow = true;
    room.add(mesh);
  };
  const plates = new BoxGeometry(PLATE.width, PLATE.height, PLATE.depth);
  const rib = new BoxGeometry(0.045, PLATE.height, 0.1);
  for (let k = 0; k < PLATES; k++) {
    const x = (k - (PLATES - 1) / 2) * PLATE.pitch;
    add(plates, plate, x, PLATE.height / 2 + 0.16, -0.1);
    add(rib, dark, x + PLATE.pitch / 2, PLATE.height / 2 + 0.16, -0.07);
  }
  const width = PLATES * PLATE.pitch;
  add(new BoxGeometry(width, 6, 0.02), dark, 0, 3, -0.14);
  add(new BoxGeometry(width, 0.14, 0.1), plate, 0, 0.07, -0.06);
  add(new BoxGeometry(width, 0.05, 0.07), dark, 0, 0.82, -0.045);
  return room;
}

/** Lets go of what a room was made of. */
export function discardRoom(room: Group): void {
  room.traverse((part) => {
    if (!(part instanceof Mesh)) return;
    (part.geometry as BufferGeometry).dispose();
    (part.material as Material).dispose();
  });
}
