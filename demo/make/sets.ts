/** The meshes that are made, and how. */
import { dockPassage, hatchFour } from './kit/passage.js';
import { frond } from './kit/kelp.js';
import { domeRing, duskShelf, kelpGarden, nodule } from './kit/shelf.js';
import { buoy, openWater, seaSheet, tideInlet } from './kit/shore.js';
import { rayBody, rayFin, submersible, urchin } from './kit/things.js';
import { outerWalk } from './kit/walk.js';
import { chartRelief, laboratory, moonPool, specimenStand, tank, tray } from './kit/within.js';
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
  { name: 'frond', make: () => frond(3, 1.75), reach: 0, painted: true },
  { name: 'dome-ring', make: domeRing, reach: 0.1 },
  { name: 'tide-inlet', make: tideInlet, reach: 0.9, uneven: 0.3 },
  { name: 'buoy', make: buoy, reach: 0.4 },
  { name: 'open-water', make: openWater, reach: 0.5 },
  { name: 'sea', make: seaSheet, reach: 0, uneven: 0 },
  { name: 'moon-pool', make: moonPool, reach: 0.9 },
  { name: 'laboratory', make: laboratory, reach: 0.7 },
  { name: 'chart-relief', make: () => chartRelief(), reach: 0.2 },
  { name: 'chart-lines', make: () => chartRelief(34), reach: 0.2, wired: true },
  { name: 'tank', make: tank, reach: 0.3 },
  { name: 'tray', make: tray, reach: 0.12 },
  { name: 'specimen-stand', make: specimenStand, reach: 0.3 },
  { name: 'urchin', make: urchin, reach: 0.08, uneven: 0.1 },
  { name: 'submersible', make: submersible, reach: 0.25 },
  { name: 'ray-body', make: rayBody, reach: 0.25 },
  { name: 'ray-fin', make: rayFin, reach: 0, painted: true, uneven: 0 },
];
