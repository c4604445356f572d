/** The server as a process: its one line, its data folder, its ends. */
import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

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

async function start(env: Record<string, string>): Promise<Run> {
  // The pages are not what is tested here; any will do.
  const child = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], {
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
        if (said.includes('\n')) resolve();
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
