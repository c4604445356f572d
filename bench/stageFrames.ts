/** How long a frame of the stage takes, against a plain three.js scene of the same meshes, materials and passes. */
import { chromium } from '@playwright/test';
import { SOFTWARE } from '../scripts/serve.js';
import type { Stage } from '../src/core/scene/stage.js';
import { bundleFor } from '../tests/fixtures/bundle.js';
import { effectOf } from '../tests/fixtures/sheets.js';
import { stageOf } from '../tests/fixtures/stages.js';
import type { Worn } from './stagePage.js';

const FRAMES = 25;
type Page = { page: typeof import('./stagePage.js') };

function glowing(prop: string, rgb: [number, number, number], finish: Partial<Worn['effect']['finish']>): Worn {
  const strands = [
    { id: 'g', name: 'G', op: 'colour', inputs: { in: { value: { rgb, intensity: 3, unit: 'factor' as const } } } },
  ];
  const effect = effectOf(strands, { emission: { from: 'g' } });
  return { prop, effect: { ...effect, finish: { ...effect.finish, lighting: 'lit', ...finish } } };
}

/** Twenty thousand motes of a centimetre that drift in a box over the props. */
const MOTES: Stage['motes'][number] = {
  ...{ id: 'motes', name: 'Motes', effect: 'motes', variant: null, seed: 1, place: [0, 0.9, 0], turn: [0, 0, 0, 1] },
  ...{ from: { kind: 'box', size: [2.4, 1.6, 2] }, rate: 4000, life: 5, lifeSpread: 0, size: 0.01, sizeSpread: 0 },
  ...{ speed: 0.1, speedSpread: 0.5, heading: [0, 1, 0], spread: 0.5, gravity: 0 },
  ...{ drift: { strength: 0.2, scale: 0.6, pace: 0.1 }, spin: 0, shape: { kind: 'round' }, soft: 0, burst: null, visible: true },
};

/**
 * @param withMotes a field of twenty thousand over both
 * @returns milliseconds: the median of each, drawn in turns in one page
 */
export async function stageFrames(withMotes = false): Promise<{ ours: number; plain: number }> {
  const base = stageOf();
  const ball = (id: string, radius: number): Stage['props'][number] => ({
    ...base.props[0]!,
    id,
    name: id,
    source: { primitive: 'sphere', radius },
    place: [0, 0.8, 0],
  });
  const stage: Stage = {
    ...base,
    props: [ball('ball', 0.4), ball('shell', 0.6)],
    ground: { ...base.ground, wall: false },
    spill: { on: false, strength: 0 },
    motes: withMotes ? [MOTES] : [],
  };
  const worn = [
    glowing('ball', [0.2, 1, 0.6], {}),
    glowing('shell', [0.1, 0.2, 1], { alphaMode: 'add', writesDepth: false, castsShadow: false }),
  ];
  const { effect } = glowing('motes', [0.2, 1, 0.5], { alphaMode: 'add', lighting: 'unlit', writesDepth: false });
  const motes = withMotes ? ({ ...effect, kind: 'mote' } as const) : null;
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: SOFTWARE,
  });
  try {
    const page = await browser.newPage();
    await page.addScriptTag({ content: await bundleFor(new URL('./stagePage.ts', import.meta.url)) });
    await page.evaluate(
      async (given) => {
        const { page } = globalThis as unknown as Page;
        await page.setOurs(given.stage, given.worn, given.motes);
        page.setPlain(given.stage);
      },
      { stage, worn, motes },
    );
    const times = await page.evaluate((n) => (globalThis as unknown as Page).page.race(n), FRAMES);
    const middle = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
    return { ours: middle(times.ours), plain: middle(times.plain) };
  } finally {
    await browser.close();
  }
}
