/** The application for a test: a server that it finds as it is at first, and one of its own where it is to be killed. */
import { fork, spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { test as base, expect, type Locator, type Page } from '@playwright/test';
import { PerspectiveCamera, Vector3 } from 'three';
import type { Effect } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { SERVER } from '../fixtures/server/build.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');

/** `npm run test:deep`: all of what `npm test` takes some of each kind from. */
export const DEEP = process.env.WISPEN_DEEP !== undefined;
/** What a test asks of the application's server. */
export class Served {
  protected port = 0;

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async get<T>(path: string): Promise<T> {
    return (await (await fetch(this.url + path)).json()) as T;
  }

  readonly effect = (id: string) => this.get<Effect>(`/api/effects/${id}`);

  async store(effect: Effect): Promise<void> {
    const response = await fetch(`${this.url}/api/effects/${effect.id}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', 'If-None-Match': '*' },
      body: JSON.stringify({ saveId: `test-${effect.id}`, document: effect }),
    });
    expect(response.status).toBe(201);
  }
}

/** The server that a worker's tests share: each finds it as it is at first. */
class Shared extends Served {
  private process: ChildProcess | null = null;

  private answer(): Promise<unknown> {
    return new Promise((resolve, reject) => {
      this.process!.once('message', resolve);
      this.process!.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    });
  }

  async start(): Promise<void> {
    this.process = fork(SERVER, {
      env: { ...process.env, NODE_OPTIONS: '', WISPEN_ROOT: root },
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    ({ port: this.port } = (await this.answer()) as { port: number });
  }

  async fresh(sets: boolean): Promise<void> {
    const answer = this.answer();
    this.process!.send(sets ? 'whole' : 'light');
    await answer;
    this.process!.removeAllListeners('exit');
  }

  stop(): void {
    this.process?.kill();
  }
}

/** A server of the test's own, as it is started by hand: it may be killed and started again on its data. */
export class App extends Served {
  private server: ChildProcess | null = null;
  readonly data = mkdtempSync(join(tmpdir(), 'wispen-app-'));

  async start(): Promise<void> {
    const server = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], {
      cwd: root,
      env: { ...process.env, HOST: '127.0.0.1', PORT: String(this.port), WISPEN_DATA: this.data },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.server = server;
    this.port = await new Promise<number>((resolve, reject) => {
      server.stdout.on('data', (text: Buffer) => {
        const match = /:(\d+)\//.exec(text.toString());
        if (match) resolve(Number(match[1]));
      });
      server.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    });
  }

  /** Ends it without warning, as a power cut would. */
  async kill(): Promise<void> {
    const { server } = this;
    if (!server) return;
    this.server = null;
    const ended = new Promise((resolve) => server.once('exit', resolve));
    server.kill('SIGKILL');
    await ended;
  }

  async stop(): Promise<void> {
    await this.kill();
    rmSync(this.data, { recursive: true, force: true });
  }
}

interface Given {
  /** The demo's stages have the large meshes that they stand in: of a test that is about how they look. */
  readonly sets: boolean;
  readonly app: Served;
  readonly own: App;
  readonly complaints: string[];
}

export const test = base.extend<Given, { shared: Shared }>({
  sets: [false, { option: true }],
  shared: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      const shared = new Shared();
      await shared.start();
      await use(shared);
      shared.stop();
    },
    { scope: 'worker' },
  ],
  app: async ({ shared, sets }, use) => {
    await shared.fresh(sets);
    await use(shared);
  },
  // Where a test kills it.
  // eslint-disable-next-line no-empty-pattern
  own: async ({}, use) => {
    const own = new App();
    await own.start();
    await use(own);
    await own.stop();
  },
  // What the page complains about: errors, and anything the content security policy blocks.
  complaints: [
    async ({ page }, use) => {
      const complaints: string[] = [];
      page.on('pageerror', (error) => complaints.push(String(error)));
      page.on('console', (message) => {
        if (/Content Security Policy|Uncaught/i.test(message.text())) complaints.push(message.text());
      });
      await use(complaints);
      expect(complaints).toEqual([]);
    },
    { auto: true },
  ],
});

/** A test of a kind of which `npm test` has others. */
export const sometimes = (title: string, body: Parameters<typeof test>[2]): void => {
  if (DEEP) test(title, body);
};

export { expect };

export const stageCanvas = (page: Page) => page.getByTestId('stage');
export const frames = async (page: Page) => Number((await stageCanvas(page).getAttribute('data-frames')) ?? 0);

/** Waits until a frame has been drawn after `before`. */
export async function nextFrame(page: Page, before: number): Promise<void> {
  await expect.poll(() => frames(page)).toBeGreaterThan(before);
}

/** Does something and waits for the frame that shows it. */
export async function drawn(page: Page, action: () => Promise<unknown>): Promise<void> {
  const before = await frames(page);
  await action();
  await nextFrame(page, before);
}

/** The display values 0..255 of one pixel of the stage's picture. */
export async function pixelAt(page: Page, x: number, y: number): Promise<[number, number, number]> {
  return (await pixelsAt(page, [[x, y]]))[0]!;
}

/** As `pixelAt`, of many places in one picture. */
export function pixelsAt(page: Page, places: readonly (readonly [number, number])[]): Promise<[number, number, number][]> {
  return stageCanvas(page).evaluate((canvas, at) => {
    const { width, height } = canvas as HTMLCanvasElement;
    const copy = document.createElement('canvas');
    copy.width = at.length > 1 ? width : 1;
    copy.height = at.length > 1 ? height : 1;
    const context = copy.getContext('2d')!;
    const from = at.length > 1 ? [0, 0] : at[0]!.map(Math.round);
    context.drawImage(canvas as HTMLCanvasElement, -from[0]!, -from[1]!);
    return at.map(([x, y]) => {
      const [r, g, b] = context.getImageData(Math.round(x) - from[0]!, Math.round(y) - from[1]!, 1, 1).data;
      return [r!, g!, b!] as [number, number, number];
    });
  }, places);
}

/** As `pixelAt`, in the middle of the stage. */
export async function middleOf(page: Page): Promise<[number, number, number]> {
  const [width, height] = await stageCanvas(page).evaluate((c: HTMLCanvasElement) => [c.width, c.height]);
  return pixelAt(page, width! / 2, height! / 2);
}

/** Where a point of the stage is on the canvas, as the viewpoint sees it. */
export async function onCanvas(
  page: Page,
  stage: Stage,
  viewpoint: string,
  point: readonly [number, number, number],
): Promise<[number, number]> {
  const [width, height] = await stageCanvas(page).evaluate((c) => [
    (c as HTMLCanvasElement).width,
    (c as HTMLCanvasElement).height,
  ]);
  const view = stage.viewpoints.find((v) => v.id === viewpoint)!;
  const camera = new PerspectiveCamera(view.fov, width! / height!, 0.05, 100);
  camera.position.set(...view.eye);
  camera.lookAt(new Vector3(...view.target));
  camera.updateMatrixWorld();
  const p = new Vector3(...point).project(camera);
  return [((p.x + 1) / 2) * width!, ((1 - p.y) / 2) * height!];
}

/** Pages whose stage stays dark. */
const dark = new WeakSet<Page>();

/** For tests of the interface alone: nothing is drawn on this page, which without a graphics card takes most of the time. */
export async function withoutPicture(page: Page): Promise<void> {
  dark.add(page);
  await page.addInitScript(() => {
    const { getContext } = HTMLCanvasElement.prototype;
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, ...args: [string]) {
      return args[0].startsWith('webgl') ? null : getContext.apply(this, args as never);
    } as never;
  });
}

/** Opens an effect, and waits for its first frame where there is to be one. */
export async function openBench(page: Page, app: Served, id: string, query = '?clock=frozen&quality=draft'): Promise<void> {
  await page.goto(`${app.url}/effects/${id}${query}`);
  await expect(page.getByRole('treegrid')).toBeVisible();
  if (dark.has(page)) await expect(page.getByRole('alert').first()).toContainText('no WebGL2');
  else await furnished(page);
}

/** Where something is, once it has come to rest there: what has just been opened may still be on its way. */
export async function restingBox(what: Locator): Promise<{ x: number; y: number; width: number; height: number }> {
  await what.scrollIntoViewIfNeeded();
  return (await what.boundingBox())!;
}

/** The stage is drawn, with all that stands on it. */
export async function furnished(page: Page): Promise<void> {
  await nextFrame(page, 0);
  await expect(stageCanvas(page)).toHaveAttribute('aria-busy', 'false');
}

export const saved = (page: Page) => expect(page.getByTestId('saved')).toHaveAttribute('data-state', 'saved');
export const links = async (page: Page) => Number(await page.getByTestId('links').textContent());
