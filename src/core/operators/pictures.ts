/** Pictures of operators, as their records tell them (`picture`): `@` and one of these. */

/** What the pictures are made of, each a strand: coordinates, ramps, hills of noise, a rainbow. */
export const FEEDS = [
  { id: 'square', name: 'Square', op: 'uv' },
  { id: 'here', name: 'Here', op: 'position' },
  { id: 'dome', name: 'Dome', op: 'normal' },
  { id: 'ramp', name: 'Ramp', op: 'pick', inputs: { in: { from: 'square' } } },
  { id: 'rough', name: 'Rough', op: 'noise', inputs: { scale: { value: 3 } } },
  {
    id: 'hills',
    name: 'Hills',
    op: 'remap',
    inputs: { in: { from: 'rough' }, fromLow: { value: -0.6 }, fromHigh: { value: 0.6 } },
    options: { outside: 'clamp' },
  },
  { id: 'steep', name: 'Steep', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: 4 } } },
  { id: 'turn', name: 'Turn', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: 12.6 } } },
  { id: 'fall', name: 'Fall', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: -4 } } },
  {
    id: 'kelvin',
    name: 'Kelvin',
    op: 'remap',
    inputs: { in: { from: 'ramp' }, toLow: { value: 1700 }, toHigh: { value: 12000 } },
  },
  { id: 'tilt', name: 'Tilt', op: 'curl', inputs: { scale: { value: 1.5 } } },
  { id: 'rainbow', name: 'Rainbow', op: 'palette', inputs: { in: { from: 'ramp' } } },
];
