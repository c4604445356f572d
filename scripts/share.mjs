// Prints how much of the code is tests, in lines.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '*.ts', '*.tsx', '*.mjs'], { encoding: 'utf8' })
  .trim()
  .split('\n');
const isTest = (f) => /\.test\.tsx?$/.test(f) || f.startsWith('tests/');
const lines = (f) => readFileSync(f, 'utf8').split('\n').length - 1;
const sum = (list) => list.reduce((n, f) => n + lines(f), 0);
const tests = sum(files.filter(isTest));
const code = sum(files.filter((f) => !isTest(f)));
console.log(`tests ${tests} lines, code ${code} lines: tests are ${((100 * tests) / (tests + code)).toFixed(1)} % of all`);
