/** The application's server for a script, on a data folder of its own that goes with it. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** What a browser without a graphics card draws with, as in the tests. */
export const SOFTWARE = ['--no-sandbox', '--use-angle=gl-egl', '--ignore-gpu-blocklist', '--disable-gpu-compositing'];

export async function serve(): Promise<{ url: string; stop: () => void }> {
  const data = mkdtempSync(join(tmpdir(), 'wispen-script-'));
  const server = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], {
    cwd: root,
    env: { ...process.env, HOST: '127.0.0.1', PORT: '0', WISPEN_DATA: data },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const url = await new Promise<string>((resolve, reject) => {
    server.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    server.stdout.on('data', (text: Buffer) => {
      const found = /http:\S+[^/\s]/.exec(text.toString());
      if (found) resolve(found[0]);
    });
  });
  return {
    url,
    stop: () => {
      server.removeAllListeners('exit');
      server.kill('SIGTERM');
      rmSync(data, { recursive: true, force: true });
    },
  };
}
