// Installs what a fresh machine lacks. Needs only Node, npm and, for what is not there, Debian's packages.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0;

function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  return result.status === 0;
}

const installed = (name) => spawnSync('dpkg', ['-s', name], { stdio: 'ignore' }).status === 0;

/** @param needs `[what must be there (a command, a path, or null for the package itself), Debian package]` */
export function ensureDebian(needs) {
  const there = ([thing, name]) => (thing === null ? installed(name) : thing.startsWith('/') ? existsSync(thing) : has(thing));
  const missing = needs.filter((need) => !there(need)).map(([, name]) => name);
  if (missing.length === 0) return true;
  if (!has('apt-get')) {
    console.error(`Missing on this machine: ${missing.join(', ')} (Debian's names). Install them and run this again.`);
    return false;
  }
  const asRoot = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const apt = (...args) => {
    const [command, ...rest] = [...asRoot, 'apt-get', ...args];
    return run(command, rest, {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  };
  console.log(`Installing ${missing.join(', ')}`);
  const install = () => apt('install', '-y', '--no-install-recommends', ...missing);
  if (install() || (apt('update') && install())) return true;
  console.error(`These Debian packages could not be installed: ${missing.join(', ')}.`);
  return false;
}

/** Node modules as package-lock.json says; nothing is done when they are there already. */
export function ensureModules() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const marker = join(root, 'node_modules', '.wispen-lock');
  if (existsSync(marker) && readFileSync(marker, 'utf8') === lock) return;
  // SQLite's binding is compiled where no ready-made one can be had; against Debian's library it takes seconds.
  ensureDebian([
    ['python3', 'python3'],
    ['make', 'make'],
    ['g++', 'g++'],
    ['/usr/include/sqlite3.h', 'libsqlite3-dev'],
  ]);
  const env = { ...process.env };
  if (existsSync('/usr/include/sqlite3.h')) env.npm_config_sqlite = '/usr';
  // Node's own headers, where they came with it: else the compiler's helper asks the network for them.
  const nodeHome = join(dirname(process.execPath), '..');
  if (existsSync(join(nodeHome, 'include/node/common.gypi'))) env.npm_config_nodedir ??= nodeHome;
  console.log('Installing node modules');
  if (!run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { env })) {
    console.error('The node modules could not be installed.');
    process.exit(1);
  }
  writeFileSync(marker, lock);
}

function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(0, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/** The built pages, made anew when a source is newer. */
export function ensureBuild() {
  const built = join(root, 'dist', 'index.html');
  const sources = ['src', 'public', 'index.html', 'vite.config.ts', 'package-lock.json'].map((p) => newest(join(root, p)));
  if (existsSync(built) && statSync(built).mtimeMs > Math.max(...sources)) return;
  console.log('Building the pages');
  execFileSync(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--logLevel', 'warn'], {
    cwd: root,
    stdio: 'inherit',
  });
}
