/** The server as a process: its one line, its data folder, its ends. */
import { STARTERS } from './fixtures/starters.js';
import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { encode } from 'fast-png';
import { emptyEffect } from '../src/core/effect/schema.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = mkdtempSync(join(tmpdir(), 'wispen-process-'));
const running: ChildProcess[] = [];
afterAll(() => {
  for (const p of running) p.kill('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
});

interface Run {
  readonly process: ChildProcess;
  /** What it has printed, once it has printed a line or ended. */
  readonly said: string;
  readonly ended: Promise<number | null>;
}

/** @param through a command that is given the server's own @param own whether the server's own command is given to it */
async function start(env: Record<string, string>, through: readonly string[] = [], own = true): Promise<Run> {
  // The pages are not what is tested here; any will do.
  const [command, ...args] = [...through, ...(own ? [process.execPath, '--import', 'tsx', 'src/server/main.ts'] : [])];
  const child = spawn(command!, args, {
    cwd: root,
    env: { ...process.env, NODE_OPTIONS: '', HOST: '', PORT: '0', WISPEN_DATA: join(folder, 'data'), ...env },
  });
  running.push(child);
  let said = '';
  const ended = new Promise<number | null>((resolve) => child.on('exit', resolve));
  const line = new Promise<void>((resolve) => {
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (text: Buffer) => {
        said += text.toString();
        if (/Wispen is at .*\n/.test(said)) resolve();
      });
  });
  await Promise.race([line, ended]);
  return {
    process: child,
    get said() {
      return said;
    },
    ended,
  };
}

test('prints one loopback address, makes its data folder, ends cleanly on Ctrl-C', async () => {
  const run = await start({});
  const match =
    /^Wispen is at (http:\/\/127\.0\.0\.1:\d+)\/\n(Its data is in .*; a copy is made every day in .*backups.*\n)?$/.exec(
      run.said,
    )!;
  expect(match).not.toBeNull();
  expect((await fetch(`${match[1]}/api/health`)).status).toBe(200);
  expect(existsSync(join(folder, 'data', 'wispen.sqlite'))).toBe(true);
  run.process.kill('SIGINT');
  expect(await run.ended).toBe(0);
});

test('a taken port is said plainly', async () => {
  const other = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => other.once('listening', resolve));
  const port = String((other.address() as { port: number }).port);
  const run = await start({ PORT: port });
  expect(await run.ended).toBe(1);
  expect(run.said).toContain(`port ${port} on 127.0.0.1 is taken`);
  expect(run.said.trim().split('\n')).toHaveLength(1);
  other.close();
});

test('a port that is none, and a folder that cannot be one', async () => {
  const noPort = await start({ PORT: 'door' });
  expect([await noPort.ended, noPort.said]).toEqual([1, expect.stringContaining('PORT is door')]);
  const blocked = join(folder, 'a-file');
  writeFileSync(blocked, '');
  const noFolder = await start({ WISPEN_DATA: join(blocked, 'data') });
  expect([await noFolder.ended, noFolder.said]).toEqual([1, expect.stringContaining('cannot be opened')]);
});

test('off loopback the printed address carries a key, and nothing is served without it', async () => {
  const run = await start({ HOST: '0.0.0.0', WISPEN_DATA: join(folder, 'open') });
  const match = /http:\/\/0\.0\.0\.0:(\d+)\/\?key=(\S+)/.exec(run.said)!;
  const url = `http://127.0.0.1:${match[1]}/api/effects`;
  expect((await fetch(url)).status).toBe(401);
  expect((await fetch(`${url}?key=${match[2]}`)).status).toBe(200);
  run.process.kill('SIGTERM');
  expect(await run.ended).toBe(0);
});

/** Starts it where no file may grow beyond so many kilobytes: what a disk does that is full. */
function startCramped(kilobytes: number, data: string): ReturnType<typeof start> {
  return start({ WISPEN_DATA: data }, ['bash', '-c', `trap '' XFSZ; ulimit -f ${kilobytes}; exec "$0" "$@"`]);
}
const addressOf = (run: Run): string => /(http:\/\/127\.0\.0\.1:\d+)\//.exec(run.said)![1]!;
const save = (address: string, id: string, note: string, k: number) =>
  fetch(`${address}/api/effects/${id}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-None-Match': '*' },
    body: JSON.stringify({ saveId: `save-of-${k}`, document: { ...emptyEffect(id, `Lamp ${k}`), note } }),
  });

test('on a full disk what is confirmed is kept, what is not is refused with a sentence, and it goes on', async () => {
  const data = join(folder, 'cramped');
  const first = await start({ WISPEN_DATA: data });
  first.process.kill('SIGTERM');
  await first.ended;
  const run = await startCramped(1500, data);
  const address = addressOf(run);
  const confirmed: string[] = [];
  const refused: string[] = [];
  for (let k = 0; k < 60; k++) {
    const id = `0190d000-0000-7000-8000-${String(k).padStart(12, '0')}`;
    // Hard to compress, and as long as a note may be.
    const note = Array.from({ length: 19_000 }, (_, j) => String.fromCharCode(97 + ((k * 31 + j * 7919) % 26))).join('');
    const answer = await save(address, id, note, k);
    if (answer.status === 201) confirmed.push(id);
    else refused.push(`${answer.status} ${((await answer.json()) as { error: string }).error}`);
  }
  expect(confirmed.length).toBeGreaterThan(0);
  expect(refused.length).toBeGreaterThan(0);
  expect(new Set(refused.map((r) => r.replace(/^507 .*(full|written).*Nothing was changed\.$/, 'told')))).toEqual(
    new Set(['told']),
  );
  expect((await fetch(`${address}/api/effects`)).status).toBe(200);
  run.process.kill('SIGTERM');
  await run.ended;
  const roomy = await start({ WISPEN_DATA: data });
  for (const id of confirmed) expect([id, (await fetch(`${addressOf(roomy)}/api/effects/${id}`)).status]).toEqual([id, 200]);
  roomy.process.kill('SIGTERM');
  await roomy.ended;
}, 120_000);

test('where nothing can be written at all it says so, and leaves nothing half made', async () => {
  const data = join(folder, 'no-room');
  const run = await startCramped(20, data);
  expect([await run.ended, run.said]).toEqual([1, expect.stringMatching(/cannot be opened: .*(full|written)/)]);
  const again = await start({ WISPEN_DATA: data });
  expect(((await (await fetch(`${addressOf(again)}/api/effects`)).json()) as unknown[]).length).toBe(STARTERS.length);
  again.process.kill('SIGTERM');
  await again.ended;
}, 60_000);

/** As one who may write only where permissions say so: root, where tests run as root, may otherwise write anywhere. */
const OBEDIENT = process.getuid?.() === 0 ? ['setpriv', '--bounding-set=-dac_override,-dac_read_search'] : [];
/** Everything in a folder, and itself, may be read only. */
const close = (path: string) => execFileSync('chmod', ['-R', 'a-w', path]);
const open = (path: string) => execFileSync('chmod', ['-R', 'u+w', path]);

test('in a folder that becomes read-only nothing confirmed is lost, and what is refused is said', async () => {
  const data = join(folder, 'closing');
  const run = await start({ WISPEN_DATA: data }, OBEDIENT);
  const address = addressOf(run);
  const ids = Array.from({ length: 8 }, (_, k) => `0190d000-0000-7000-8000-${String(k).padStart(12, '0')}`);
  const answers: [string, Response][] = [];
  for (const [k, id] of ids.entries()) {
    if (k === 3) close(data);
    answers.push([id, await save(address, id, 'a lamp', k)]);
  }
  const png = encode({ width: 1, height: 1, data: Uint8Array.from([4, 5, 6]), channels: 3, depth: 8 });
  const sha = createHash('sha256').update(png).digest('hex');
  const imported = await fetch(`${address}/api/assets/${sha}`, { method: 'PUT', body: new Uint8Array(png) });
  expect([imported.status, await imported.json()]).toEqual([507, { error: expect.stringMatching(/cannot be written to/) }]);
  for (const [, answer] of answers)
    if (answer.status !== 201)
      expect([answer.status, ((await answer.json()) as { error: string }).error]).toEqual([
        507,
        expect.stringMatching(/cannot be written to.*Nothing was changed\.$/),
      ]);
  expect((await fetch(`${address}/api/effects`)).status).toBe(200);
  run.process.kill('SIGTERM');
  await run.ended;
  // It cannot be opened like that, and says so in one line.
  const shut = await start({ WISPEN_DATA: data }, OBEDIENT);
  expect([await shut.ended, shut.said]).toEqual([1, expect.stringMatching(/cannot be (opened|written)/)]);
  expect(shut.said.trim().split('\n')).toHaveLength(1);
  open(data);
  const again = await start({ WISPEN_DATA: data });
  for (const [id, answer] of answers)
    if (answer.status === 201) expect([id, (await fetch(`${addressOf(again)}/api/effects/${id}`)).status]).toEqual([id, 200]);
  again.process.kill('SIGTERM');
  await again.ended;
}, 60_000);

test('the command that starts it keeps imported files in a hidden folder, and gives them back', async () => {
  const data = join(folder, '.wispen-data');
  const run = await start({ WISPEN_DATA: data }, [process.execPath, 'scripts/demo.mjs'], false);
  const address = addressOf(run);
  const png = encode({ width: 1, height: 1, data: Uint8Array.from([1, 2, 3]), channels: 3, depth: 8 });
  const sha = createHash('sha256').update(png).digest('hex');
  expect((await fetch(`${address}/api/assets/${sha}`, { method: 'PUT', body: new Uint8Array(png) })).status).toBe(201);
  const back = await fetch(`${address}/api/assets/${sha}`);
  expect([back.status, Buffer.from(await back.arrayBuffer()).equals(Buffer.from(png))]).toEqual([200, true]);
  run.process.kill('SIGTERM');
  await run.ended;
}, 60_000);

test('a second one on the same folder is told so', async () => {
  const data = join(folder, 'shared');
  const first = await start({ WISPEN_DATA: data });
  const second = await start({ WISPEN_DATA: data });
  expect([await second.ended, second.said]).toEqual([1, expect.stringContaining('another Wispen (process')]);
  first.process.kill('SIGTERM');
  await first.ended;
});
