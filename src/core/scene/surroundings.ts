/** Surroundings that ship with Wispen: pictures of the light all around, with a mean luminance of 1. */
export const SURROUNDINGS = [
  { id: 'wispen:workshop', name: 'Workshop', file: 'workshop.hdr' },
  { id: 'wispen:hall', name: 'Hall', file: 'hall.hdr' },
  { id: 'wispen:dawn', name: 'Dawn', file: 'dawn.hdr' },
  { id: 'wispen:night', name: 'Night', file: 'night.hdr' },
] as const;
export type SurroundingsId = (typeof SURROUNDINGS)[number]['id'];

/** What a stage's `surroundings.asset` names; undefined for what does not ship here. */
export const surroundingsOf = (asset: string | null): (typeof SURROUNDINGS)[number] | undefined =>
  SURROUNDINGS.find((s) => s.id === asset);
