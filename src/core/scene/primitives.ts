/** The numbers of a primitive: how large it is, and into how many parts it is cut. */
import type { Primitive, PropSource } from './stage.js';

/** Into how many parts each is cut where nothing is said, and what the two ways are called. */
export const SEGMENTS: Readonly<Record<Primitive['primitive'], readonly [readonly [string, number], readonly [string, number]]>> =
  {
    sphere: [
      ['around', 96],
      ['up', 48],
    ],
    box: [
      ['across', 8],
      ['up', 8],
    ],
    plane: [
      ['across', 64],
      ['up', 64],
    ],
    tube: [
      ['around', 48],
      ['along', 24],
    ],
    ring: [
      ['around', 128],
      ['across', 24],
    ],
    dome: [
      ['around', 96],
      ['up', 32],
    ],
    cylinder: [
      ['around', 64],
      ['up', 16],
    ],
  };

/** How many parts it has, one way and the other. */
export const partsOf = (source: Primitive): readonly [number, number] =>
  source.segments ?? (SEGMENTS[source.primitive].map(([, count]) => count) as [number, number]);

/** By their names; empty for a mesh. */
export const segmentsOf = (source: PropSource): { readonly name: string; readonly value: number }[] =>
  'primitive' in source ? SEGMENTS[source.primitive].map(([name], k) => ({ name, value: partsOf(source)[k]! })) : [];

/** A primitive cut into other parts. @param k which way, in the order of `segmentsOf` */
export function cut(source: PropSource, k: number, count: number): PropSource {
  if (!('primitive' in source)) return source;
  const [one, other] = partsOf(source);
  const whole = Math.max(1, Math.min(512, Math.round(count)));
  return { ...source, segments: k === 0 ? [whole, other] : [one, whole] };
}

/** The numbers of a primitive's size, by their names: metres. Empty for a mesh, which has only its scale. */
export function sizesOf(source: PropSource): { readonly name: string; readonly value: number }[] {
  if (!('primitive' in source)) return [];
  const sizes = Object.entries(source).filter(([name]) => name !== 'primitive' && name !== 'segments');
  return sizes.flatMap(([name, value]) =>
    Array.isArray(value)
      ? value.map((v: number, k) => ({ name: ['width', 'height', 'depth'][k]!, value: v }))
      : [{ name, value: value as number }],
  );
}

/** A primitive with one of its sizes changed. @param k which, in the order of `sizesOf` */
export function resized(source: PropSource, k: number, value: number): PropSource {
  if (!('primitive' in source)) return source;
  if ('size' in source) return { ...source, size: source.size.map((v, axis) => (axis === k ? value : v)) } as PropSource;
  const names = Object.keys(source).filter((n) => n !== 'primitive' && n !== 'segments');
  return { ...source, [names[k]!]: value } as PropSource;
}

/** A primitive cut into twice as many parts each way, as far as may be. */
export function finerOf(source: Primitive): Primitive {
  const [one, other] = partsOf(source);
  return { ...source, segments: [Math.min(512, one * 2), Math.min(512, other * 2)] };
}
