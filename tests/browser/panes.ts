/** Small stages of panes and balls in plain effects, for tests that measure pixels. */
import type { Page } from '@playwright/test';
import type { Effect, Input, Strand, Value } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { effectOf } from '../fixtures/sheets.js';
import { stageOf } from '../fixtures/stages.js';
import { expect, onCanvas, pixelAt, type Served } from './app.js';

const STAGE = '0190b100-0000-7000-8000-00000000e001';
const idOf = (k: number) => `0190b000-0000-7000-8000-00000000e${String(k).padStart(3, '0')}`;
export type Prop = Stage['props'][number];

export const v = (value: Value) => ({ value });
export const grey = (id: string, value: number): Strand => ({
  id,
  name: id,
  op: 'colour',
  inputs: { in: v({ rgb: [value, value, value], intensity: 1, unit: 'factor' }) },
});

let made = 0;
/** Where the ids of a test's effects begin. */
export const onwards = (from: number): number => (made = from);

/** An unlit effect, stored. @returns its id */
export async function effect(
  app: Served,
  strands: Strand[],
  outputs: Record<string, Input>,
  finish: Partial<Effect['finish']> = {},
  more: Partial<Effect> = {},
): Promise<string> {
  const id = idOf(++made);
  const home = { stage: STAGE, prop: 'a', viewpoint: 'front' };
  const whole = {
    alphaMode: 'opaque',
    sides: 'front',
    lighting: 'unlit',
    castsShadow: false,
    writesDepth: true,
    order: 0,
    alphaCutoff: 0.5,
    ...finish,
  };
  await app.store({ ...effectOf(strands, outputs, { finish: whole, home, ...more }), id, name: `Pane ${made}`, shared: [] });
  return id;
}
export const plain = (app: Served, value: number) => effect(app, [grey('c', value)], { emission: { from: 'c' } });

export const prop = (
  id: string,
  source: Prop['source'],
  place: [number, number, number],
  worn: string | null,
  more: Partial<Prop> = {},
): Prop => ({
  id,
  name: id,
  source,
  place,
  turn: [0, 0, 0, 1],
  scale: [1, 1, 1],
  seed: 1,
  group: null,
  parts: worn ? [{ part: 'all', effect: worn, variant: null, overrides: {} }] : [],
  paint: null,
  visible: true,
  locked: false,
  ...more,
});

export async function stageWith(
  app: Served,
  props: Prop[],
  eye: [number, number, number],
  ground: boolean,
  more: Partial<Stage> = {},
): Promise<Stage> {
  const stage = stageOf();
  const document: Stage = {
    ...stage,
    id: STAGE,
    name: 'Panes',
    props,
    ground: { ...stage.ground, on: ground, wall: false },
    viewpoints: [{ id: 'front', name: 'Front', eye, target: [0, 0, 0], fov: 30, lensBend: 0 }],
    optics: { ...stage.optics, exposure: 0, tone: 'linear', bloom: { ...stage.optics.bloom, on: false } },
    spill: { on: false, strength: 0 },
    ...more,
  };
  const response = await fetch(`${app.url}/api/stages/${STAGE}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-None-Match': '*' },
    body: JSON.stringify({ saveId: 'test-panes', document }),
  });
  expect(response.status).toBe(201);
  return document;
}
export const seenAt = async (page: Page, stage: Stage, point: [number, number, number]) =>
  pixelAt(page, ...(await onCanvas(page, stage, 'front', point)));
/** IEC 61966-2-1. */
export const shown = (linear: number) => 255 * (linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055);
export const OPEN = '?clock=frozen';
