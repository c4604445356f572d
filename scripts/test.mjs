// `npm test`: installs what is missing, then types, lint, unit tests, browser tests; ends with one line of counts.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureDebian, ensureModules, root } from './setup.mjs';

const out = join(root, 'test-results');
let passed = 0;
let failed = 0;
const times = [];

function stage(name, work) {
  const began = Date.now();
  const ok = work();
  times.push(`${name} ${((Date.now() - began) / 1000).toFixed(0)} s`);
  return ok;
}

const run = (args, env = {}) =>
  spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } }).status === 0;

/** A stage that is one check. */
function check(name, args) {
  const ok = stage(name, () => run(args));
  if (ok) passed++;
  else failed++;
}

/** A stage that reports its own counts; one that wrote no report has failed as a whole. */
function counted(name, report, args, env, count) {
  rmSync(report, { force: true });
  const ok = stage(name, () => run(args, env));
  if (!existsSync(report)) {
    failed++;
    return;
  }
  const counts = count(JSON.parse(readFileSync(report, 'utf8')));
  passed += counts.passed;
  failed += counts.failed;
  if (!ok && counts.failed === 0) failed++;
}

stage('setup', () => {
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
check('types', ['node_modules/typescript-native/lib/tsc.js', '--noEmit', '-p', 'tsconfig.json']);
check('lint', ['node_modules/eslint/bin/eslint.js', '.', '--max-warnings', '0']);
stage('build', () => (ensureBuild(), true));
const unitReport = join(out, 'unit.json');
counted(
  'unit',
  unitReport,
  ['--experimental-vm-modules', '--no-warnings', 'node_modules/jest/bin/jest.js', '--ci', '--json', `--outputFile=${unitReport}`],
  {},
  (r) => ({ passed: r.numPassedTests, failed: r.numFailedTests + r.numRuntimeErrorTestSuites }),
);
const browserReport = join(out, 'browser.json');
counted(
  'browser',
  browserReport,
  ['node_modules/@playwright/test/cli.js', 'test', '--reporter=line,json'],
  { PLAYWRIGHT_JSON_OUTPUT_NAME: browserReport },
  (r) => ({ passed: r.stats.expected, failed: r.stats.unexpected + r.stats.flaky + r.errors.length }),
);
console.log(times.join(', '));
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed > 0 ? 1 : 0);
