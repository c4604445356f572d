/** Masks: numbers from 0 to 1 over the surface. */
import { power } from '../ir/kernels/transcendental.js';
import { operator, type OperatorRecord } from './record.js';

export const MASKS: readonly OperatorRecord[] = [
  operator({
    id: 'fresnel',
    label: 'Fresnel',
    family: 'Masks',
    summary: 'Bright where the surface turns away from the eye: a rim.',
    keywords: ['rim', 'edge', 'facing', 'schlick'],
    inputs: {
      normal: { kind: '3', default: { leaf: 'normal' }, soft: [-1, 1], note: 'which way the surface faces' },
      f0: { kind: '1', default: 0, soft: [0, 1], note: 'what is left when seen straight on' },
      falloff: { kind: '1', default: 4, soft: [0.5, 10], note: 'higher is a thinner rim' },
      width: { kind: '1', default: 0.6, soft: [0, 1], optional: true, note: 'instead of falloff: more is wider' },
    },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    source: 'Schlick 1994: f0 + (1 - f0)(1 - n.v)^falloff; width 0..1 is falloff 10..0.5',
    lower: ({ b }, x) => {
      const falloff = x.width ? b.composite('mix', 10, 0.5, x.width) : x.falloff!;
      const facing = b.composite('clamp', b.composite('dot', x.normal!, b.leaf('view')), 0, 1);
      // At a grazing view 1 - n.v is 1; straight on it is 0 and the power is 0.
      const rim = b.call(power, b.sub(1, facing), falloff);
      return { value: b.add(x.f0!, b.mul(b.sub(1, x.f0!), rim)) };
    },
  }),
];
