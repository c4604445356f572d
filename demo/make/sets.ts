/** The meshes that are made, and how. */
import { dockPassage, hatchFour } from './kit/passage.js';
import { duskShelf, kelpGarden, nodule } from './kit/shelf.js';
import { outerWalk } from './kit/walk.js';
import type { Making } from './file.js';
import type { Shape } from './shape.js';

export interface MadeMesh extends Making {
  readonly name: string;
  readonly make: () => Shape;
}

export const SETS: readonly MadeMesh[] = [
  { name: 'dock-passage', make: dockPassage, reach: 0.9 },
  { name: 'hatch-four', make: hatchFour, reach: 0.7 },
  {
    name: 'outer-walk',
    make: () =>
      outerWalk([
        [-0.9, 1, 0.5],
        [0.35, 1, -0.3],
        [1.6, 1, -1.2],
      ]),
    reach: 0.8,
  },
  { name: 'dusk-shelf', make: duskShelf, reach: 1.1, uneven: 0.3 },
  { name: 'nodule', make: nodule, reach: 0, uneven: 0.3 },
  {
    name: 'kelp-garden',
    make: () =>
      kelpGarden([
        [-0.75, 0, 0.55],
        [-0.2, 0, 0.9],
        [0.35, 0, 0.6],
        [0.85, 0, 0.95],
      ]),
    reach: 1,
    uneven: 0.3,
  },
];
