/** The lights of a stage: far ones, points, spots; at most three of them throw shadows. */
import { DirectionalLight, Group, PointLight, SpotLight, Vector3, type Light as AnyLight } from 'three';
import type { Drive } from '../core/scene/driven.js';
import type { Light, Stage } from '../core/scene/stage.js';
import { MOST_SHADOWS, type ShadowLamp } from './softShadows.js';

/** Half the angle that a far light's disc is seen under, as its tangent: 1.1 degrees, a lamp of 20 cm at 5 m. */
const LIGHT_RADIUS = 0.02;
/** Metres about its target within which a far light throws shadows: as far as what stands there, and no farther. */
const [NEAREST, FARTHEST] = [4, 16];

interface Placed {
  readonly id: string;
  readonly kind: Light['kind'];
  readonly shadow: boolean;
  readonly lamp: DirectionalLight | SpotLight | PointLight;
  /** Where its document has it. */
  readonly place: Vector3;
  /** As its document has it. */
  readonly light: Light;
}

const isFar = (kind: Light['kind']) => kind === 'key' || kind === 'sun' || kind === 'fill';

function lampOf(kind: Light['kind'], shadow: boolean): Placed['lamp'] {
  const lamp = isFar(kind) ? new DirectionalLight() : kind === 'spot' ? new SpotLight() : new PointLight(0xffffff, 1, 0, 2);
  lamp.castShadow = shadow;
  if (!(lamp instanceof PointLight)) {
    lamp.shadow.mapSize.set(isFar(kind) ? 2048 : 1024, isFar(kind) ? 2048 : 1024);
    lamp.shadow.bias = -0.0005;
    lamp.shadow.normalBias = 0.02;
    lamp.shadow.camera.near = 0.1;
    // Drawing shadows alone is done for a camera that sees nothing else.
    lamp.shadow.camera.layers.enableAll();
  }
  // It shines on what is see-through too, which is drawn in a layer of its own.
  lamp.layers.enableAll();
  return lamp;
}

const UNDRIVEN: Drive = { rgb: [1, 1, 1], intensity: 1 };

function shine(lamp: AnyLight, { rgb: [r, g, b], intensity }: Light, by: Drive): void {
  lamp.color.setRGB(r * by.rgb[0], g * by.rgb[1], b * by.rgb[2]);
  // three's directional light of intensity pi lights a white diffuser to radiance 1; points and spots do so at one metre.
  lamp.intensity = intensity * by.intensity * Math.PI;
}

export class StageLights {
  readonly group = new Group();
  private placed: readonly Placed[] = [];

  /** @param reach how far from a point of the stage what stands there goes, in metres */
  bringTo(stage: Stage, reach: (from: Vector3) => number): void {
    let shadows = 0;
    const next = stage.lights.map((light): Placed => {
      const shadow = light.shadow && light.kind !== 'point' && ++shadows <= MOST_SHADOWS;
      const old = this.placed.find((p) => p.id === light.id && p.kind === light.kind && p.shadow === shadow);
      const lamp = old?.lamp ?? lampOf(light.kind, shadow);
      return { id: light.id, kind: light.kind, shadow, lamp, place: new Vector3(...light.place), light };
    });
    for (const { lamp } of this.placed) if (!next.some((p) => p.lamp === lamp)) this.discard(lamp);
    this.placed = next;
    next.forEach((placed, k) => this.shape(placed, stage.lights[k]!, reach));
    this.casting.forEach(({ shadow }, row) => (shadow.radius = row));
  }

  private shape({ kind, lamp, place, shadow }: Placed, light: Light, reach: (from: Vector3) => number): void {
    this.group.add(lamp);
    lamp.position.copy(place);
    shine(lamp, light, UNDRIVEN);
    if (lamp instanceof PointLight) return;
    lamp.target.position.set(...light.target);
    this.group.add(lamp.target);
    if (lamp instanceof SpotLight) {
      const { angle, soft } = light.cone ?? { angle: 30, soft: 0.3 };
      lamp.angle = (angle * Math.PI) / 180;
      lamp.penumbra = soft;
      lamp.distance = 0;
      lamp.shadow.camera.far = 2 * Math.max(4, place.distanceTo(lamp.target.position));
      return;
    }
    if (!shadow || !isFar(kind)) return;
    const half = Math.min(FARTHEST, Math.max(NEAREST, reach(lamp.target.position)));
    const { camera } = lamp.shadow;
    Object.assign(camera, { left: -half, right: half, top: half, bottom: -half });
    camera.far = Math.max(20, place.distanceTo(lamp.target.position) + half);
    camera.updateProjectionMatrix();
  }

  /** Brings the lights to a moment: those that something drives shine as it says, the others as they are. */
  drive(driven: ReadonlyMap<string, Drive>): void {
    for (const { id, lamp, light } of this.placed) if (light.drivenBy) shine(lamp, light, driven.get(id) ?? UNDRIVEN);
  }

  /** Those that throw shadows, in the order of their rows. */
  get casting(): ShadowLamp[] {
    return this.placed.flatMap(({ lamp, place, shadow }): ShadowLamp[] => {
      if (!shadow || lamp instanceof PointLight) return [];
      if (lamp instanceof DirectionalLight) {
        const { camera } = lamp.shadow;
        return [{ shadow: lamp.shadow, width: LIGHT_RADIUS / (camera.right - camera.left) }];
      }
      const radius = place.distanceTo(lamp.target.position) * LIGHT_RADIUS;
      return [{ shadow: lamp.shadow, width: radius / (2 * Math.tan(lamp.angle)) }];
    });
  }

  /** Moves every light that throws shadows over its disc. @param place on it, of radius 1 */
  tilt([x, y]: readonly [number, number]): void {
    for (const { lamp, place, shadow } of this.placed) {
      if (!shadow || lamp instanceof PointLight) continue;
      const away = place.clone().sub(lamp.target.position);
      const across = new Vector3(0, 1, 0).cross(away);
      if (across.lengthSq() < 1e-9) across.set(1, 0, 0);
      const up = away.clone().cross(across);
      const radius = away.length() * LIGHT_RADIUS;
      lamp.position
        .copy(place)
        .addScaledVector(across.normalize(), x * radius)
        .addScaledVector(up.normalize(), y * radius);
    }
  }

  /** Every light in its place again. */
  straighten(): void {
    for (const { lamp, place } of this.placed) lamp.position.copy(place);
  }

  private discard(lamp: AnyLight): void {
    lamp.removeFromParent();
    if (lamp instanceof DirectionalLight || lamp instanceof SpotLight) lamp.target.removeFromParent();
    lamp.dispose();
  }

  dispose(): void {
    for (const { lamp } of this.placed) this.discard(lamp);
    this.placed = [];
  }
}
