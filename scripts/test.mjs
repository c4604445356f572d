// `npm test`: installs what is missing, builds, then types beside lint, unit tests, browser tests; ends with one line of counts.
import { Buffer } from 'node:buffer';
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { ensureBuild, ensureDebian, ensureModules, root } from './setup.mjs';

const out = join(root, 'test-results');
let passed = 0;
let failed = 0;
const times = [];
/** What failed, said again at the end: of a long run on a machine elsewhere, often only the end is kept. */
const failures = [];
const fault = (title, message) =>
  failures.push(`✕ ${title}\n${stripVTControlCharacters(message).split('\n').slice(0, 25).join('\n')}`);

async function stage(name, work) {
  const began = Date.now();
  const ok = await work();
  times.push(`${name} ${((Date.now() - began) / 1000).toFixed(0)} s`);
  return ok;
}

/** Runs a command to its end. What `aside` says is shown when it has ended, so that two that run at once are not mixed. */
function run(args, { env = {}, aside = false } = {}) {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, args, {
      cwd: root,
      stdio: aside ? ['ignore', 'pipe', 'pipe'] : 'inherit',
      env: { ...process.env, ...env },
    });
    const said = [];
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (text) => said.push(text));
    child.on('exit', (code) => {
      process.stdout.write(Buffer.concat(said));
      resolve(code === 0);
    });
  });
}

/** A stage that is one check. */
async function check(name, args) {
  const ok = await stage(name, () => run(args, { aside: true }));
  if (ok) passed++;
  else failed++;
}

/** A stage that reports its own counts; one that wrote no report has failed as a whole. */
async function counted(name, report, args, options, count) {
  rmSync(report, { force: true });
  const ok = await stage(name, () => run(args, options));
  if (!existsSync(report)) {
    failed++;
    return;
  }
  const counts = count(JSON.parse(readFileSync(report, 'utf8')));
  passed += counts.passed;
  failed += counts.failed;
  for (const [title, message] of counts.faults) fault(title, message);
  if (!ok && counts.failed === 0) failed++;
}

const began = Date.now();
await stage('setup', () => {
  ensureModules();
  const ready = ensureDebian([
    ['/usr/bin/chromium', 'chromium'],
    ['glslangValidator', 'glslang-tools'],
    ['spirv-opt', 'spirv-tools'],
    [null, 'libegl-mesa0'],
    [null, 'libgl1-mesa-dri'],
  ]);
  if (!ready) failed++;
  mkdirSync(out, { recursive: true });
  return ready;
});
await stage('build', () => (ensureBuild(), true));

// Each of these keeps one core busy.
await Promise.all([
  check('types', ['node_modules/typescript-native/lib/tsc.js', '--noEmit', '-p', 'tsconfig.json']),
  check('lint', ['node_modules/eslint/bin/eslint.js', '.', '--max-warnings', '0']),
]);
const unitReport = join(out, 'unit.json');
await counted(
  'unit',
  unitReport,
  ['--experimental-vm-modules', '--no-warnings', 'node_modules/jest/bin/jest.js', '--ci', '--json', `--outputFile=${unitReport}`],
  {},
  (r) => ({
    passed: r.numPassedTests,
    failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
    faults: r.testResults.flatMap((file) => (file.status === 'failed' ? [[file.name.slice(root.length + 1), file.message]] : [])),
  }),
);
/** The failed tests of a suite and of those within it. */
const unexpected = (suite) => [
  ...(suite.suites ?? []).flatMap(unexpected),
  ...suite.specs
    .filter((spec) => !spec.ok)
    .map((spec) => [
      `${spec.file}:${spec.line} ${spec.title}`,
      spec.tests
        .flatMap((t) => t.results)
        .flatMap((t) => t.errors)
        .map((e) => e.message)
        .join('\n'),
    ]),
];
const browserReport = join(out, 'browser.json');
await counted(
  'browser',
  browserReport,
  ['node_modules/@playwright/test/cli.js', 'test', '--reporter=line,json'],
  { env: { PLAYWRIGHT_JSON_OUTPUT_NAME: browserReport } },
  (r) => ({
    passed: r.stats.expected,
    failed: r.stats.unexpected + r.stats.flaky + r.errors.length,
    faults: [...r.errors.map((e) => ['the run', e.message ?? '']), ...r.suites.flatMap(unexpected)],
  }),
);
const minutes = (Date.now() - began) / 60_000;
for (const text of failures) console.log(text);
console.log(`${times.join(', ')}; ${minutes.toFixed(1)} min in all`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed > 0 ? 1 : 0);
