// `npm run test:deep`: what takes too long for `npm test`, which holds a short twin of each. One line a part at the end.
import { spawnSync } from 'node:child_process';
import { ensureBuild, ensureModules, root } from './setup.mjs';

ensureModules();
ensureBuild();
const parts = [
  // Constructed sheets by the thousand, histories of many edits, documents and files that are damaged, starts that are killed.
  [
    'sheets',
    [
      '--experimental-vm-modules',
      '--no-warnings',
      'node_modules/jest/bin/jest.js',
      '--testTimeout=7200000',
      ...['agreement', 'historyStore', 'skeleton', 'tests/mutants', 'tests/large', 'decoder', 'store.test', 'simplify', 'mends'],
    ],
  ],
  // Fifty kills; every operator on many more points, and whole sheets, on the graphics card; every starter walked through,
  // rebuilt, drawn and beside its twin, every sheet that is counted.
  [
    'browser',
    [
      'node_modules/@playwright/test/cli.js',
      'test',
      ...['safety', 'gpu/agreement', 'gpu/twins', 'frames', 'rebuilt', 'boxes', 'counting', 'walk'],
      '--timeout=1800000',
    ],
  ],
  // Each row of the bench once, for its working and not for its bound.
  ['bench', ['--import', 'tsx', 'bench/run.ts', '--working']],
  ['mutants', ['--import', 'tsx', 'scripts/mutate.ts']],
];
const told = parts.map(([name, args]) => {
  const began = Date.now();
  const { status } = spawnSync(process.execPath, args, {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, WISPEN_DEEP: '1' },
  });
  return {
    ok: status === 0,
    text: `${name} ${status === 0 ? 'passed' : 'FAILED'} (${((Date.now() - began) / 60_000).toFixed(1)} min)`,
  };
});
console.log(told.map((t) => t.text).join(', '));
process.exit(told.every((t) => t.ok) ? 0 : 1);
