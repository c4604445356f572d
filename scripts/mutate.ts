/**
 * `npm run mutate [-- --count 200 --seed 1 --only src/core/passes --at src/core/base/keys.ts:50,…]`: would the tests see it?
 * Small changes of the core, one at a time, in copies of the source; the nearest tests run on each. Ends with the share that
 * was caught, and exit 1 when that is under 90 in 100. What was not caught is listed: it needs a test, or changes nothing
 * that can be seen.
 */
import { spawn } from 'node:child_process';
import { cpSync, mkdirSync, readFileSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import ts from 'typescript';
import { randomFrom } from '../tests/fixtures/sheets.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const { values: asked } = parseArgs({
  options: {
    count: { type: 'string', default: '200' },
    seed: { type: 'string', default: '1' },
    only: { type: 'string', default: 'src/core' },
    at: { type: 'string', default: '' },
  },
});
const BOUND = 0.9;
const COPIES = 2;
/** Longer than any of these tests takes: a change that makes a loop endless is seen by its silence. */
const SILENCE_MS = 60_000;

interface Mutant {
  readonly file: string;
  readonly line: number;
  readonly from: number;
  readonly to: number;
  readonly text: string;
  readonly says: string;
}

const OPPOSITE = new Map<ts.SyntaxKind, string>([
  [ts.SyntaxKind.PlusToken, '-'],
  [ts.SyntaxKind.MinusToken, '+'],
  [ts.SyntaxKind.AsteriskToken, '/'],
  [ts.SyntaxKind.SlashToken, '*'],
  [ts.SyntaxKind.LessThanToken, '>='],
  [ts.SyntaxKind.LessThanEqualsToken, '>'],
  [ts.SyntaxKind.GreaterThanToken, '<='],
  [ts.SyntaxKind.GreaterThanEqualsToken, '<'],
  [ts.SyntaxKind.EqualsEqualsEqualsToken, '!=='],
  [ts.SyntaxKind.ExclamationEqualsEqualsToken, '==='],
  [ts.SyntaxKind.AmpersandAmpersandToken, '||'],
  [ts.SyntaxKind.BarBarToken, '&&'],
  [ts.SyntaxKind.PlusEqualsToken, '-='],
]);
const SWAPPED = new Map(
  [
    ['add', 'sub'],
    ['mul', 'div'],
    ['min', 'max'],
    ['floor', 'ceil'],
    ['sin', 'cos'],
    ['lt', 'ge'],
    ['le', 'gt'],
    ['eq', 'ne'],
    ['abs', 'neg'],
  ].flatMap(([a, b]) => [[a, b] as const, [b, a] as const]) as [string, string][],
);
/** Hints for hands and words for eyes: no number comes of them. */
const SAID = new Set(['soft', 'note', 'summary', 'keywords', 'message', 'title', 'label', 'help']);
const textFiles = /handbook|catalogue|\.d\.ts$|\.test\.ts$/;

function mutantsOf(file: string): Mutant[] {
  const text = readFileSync(join(root, file), 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const found: Mutant[] = [];
  const add = (node: ts.Node, to: string) =>
    found.push({
      file,
      line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1,
      from: node.getStart(),
      to: node.getEnd(),
      text: to,
      says: `${node.getText().slice(0, 40)} -> ${to.slice(0, 40)}`,
    });
  const visit = (node: ts.Node): void => {
    if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isInterfaceDeclaration(node)) return;
    if (ts.isThrowStatement(node) || ts.isTemplateExpression(node)) return;
    if (ts.isPropertyAssignment(node) && SAID.has(node.name.getText())) return;
    if (ts.isBinaryExpression(node)) {
      const other = OPPOSITE.get(node.operatorToken.kind);
      const joins = [node.left, node.right].some((n) => ts.isStringLiteralLike(n) || ts.isTemplateExpression(n));
      if (other && !joins) add(node.operatorToken, other);
    }
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.MinusToken) add(node, node.operand.getText());
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken)
      add(node, `(${node.operand.getText()})`);
    if (ts.isNumericLiteral(node))
      add(node, Number(node.text) === 0 ? '1' : Number(node.text) === 1 ? '2' : `${node.text} * 1.5`);
    if (node.kind === ts.SyntaxKind.TrueKeyword) add(node, 'false');
    if (node.kind === ts.SyntaxKind.FalseKeyword) add(node, 'true');
    if (ts.isConditionalExpression(node)) add(node.condition, 'true');
    // An operation of the IR by its name, or a method of the builder or of Math.
    if (ts.isStringLiteral(node) && ts.isCallExpression(node.parent) && SWAPPED.has(node.text))
      add(node, `'${SWAPPED.get(node.text)!}'`);
    if (ts.isPropertyAccessExpression(node) && ts.isCallExpression(node.parent) && /^(b|Math)$/.test(node.expression.getText())) {
      const other = SWAPPED.get(node.name.text);
      if (other && (node.expression.getText() === 'b' || Object.hasOwn(Math, other))) add(node.name, other);
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

function filesIn(folder: string): string[] {
  return readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter((f) => f.endsWith('.ts'))
    .map((f) => join(folder, f))
    .sort();
}

/**
 * Nearest first: a file's own test, every operator's numbers where the file has a part in them, what imports the file, and
 * its folder. What would start servers and commands is left out: it is slow, and sees what the nearer ones see.
 */
const tests = [...filesIn('src'), ...filesIn('tests')].filter((f) => f.endsWith('.test.ts'));
const texts = new Map(tests.map((t) => [t, readFileSync(join(root, t), 'utf8')]));
const NUMBERS = 'tests/numbers.test.ts';
const KERNELS = 'tests/kernels.test.ts';
/** What edits and documents are for: their keepers' tests see what an edit does wrong. */
const SESSION = tests.filter((t) => t.startsWith('src/session/'));
const APART = /walls|process\.test|agreement|server\/|cli\//;
function nearest(file: string): string[][] {
  const own = file.replace(/\.ts$/, '.test.ts');
  const named = new RegExp(`/${basename(file, '.ts')}\\.js'`);
  const counts = /core\/(operators|ir|lower|passes|targets|base)\//.test(file);
  const stages = [
    tests.filter((t) => t === own),
    counts ? [NUMBERS] : [],
    file.includes('/kernels/') ? [KERNELS] : [],
    tests.filter((t) => named.test(texts.get(t)!)),
    tests.filter((t) => dirname(t) === dirname(file)),
    file.includes('core/effect/') ? SESSION : [],
  ];
  // Shader text is judged by a compiler, at last: that takes longer than all the others.
  const judged = /core\/targets\/(glsl|names|reserved)/.test(file) ? [['tests/agreement.test.ts']] : [];
  const seen = new Set<string>();
  return stages
    .map((stage) => stage.filter((t) => !APART.test(t) && !seen.has(t) && seen.add(t)))
    .concat(judged)
    .filter((stage) => stage.length > 0);
}

function copyOf(k: number): string {
  const copy = join(root, 'test-results/mutants', String(k));
  rmSync(copy, { recursive: true, force: true });
  mkdirSync(copy, { recursive: true });
  for (const part of ['src', 'tests', 'demo', 'docs', 'bench', 'scripts', 'jest.config.js', 'package.json', 'tsconfig.json'])
    cpSync(join(root, part), join(copy, part), { recursive: true });
  symlinkSync(join(root, 'node_modules'), join(copy, 'node_modules'));
  return copy;
}

/** True when the tests fail, or do not end. */
function fails(copy: string, files: readonly string[]): Promise<boolean> {
  return new Promise((done) => {
    const jest = spawn(
      process.execPath,
      [
        '--experimental-vm-modules',
        '--no-warnings',
        'node_modules/jest/bin/jest.js',
        '--ci',
        '--bail',
        '--runInBand',
        '--silent',
        '--rootDir',
        copy,
        ...files.map((f) => join(copy, f)),
      ],
      { cwd: copy, stdio: 'ignore' },
    );
    const late = setTimeout(() => jest.kill('SIGKILL'), SILENCE_MS * (1 + files.length / 8));
    jest.on('exit', (code) => {
      clearTimeout(late);
      done(code !== 0);
    });
  });
}

/** Failing is a finding only of tests that pass without the change. */
const passing = new Set<string>();
async function passes(copy: string, files: readonly string[]): Promise<void> {
  if (passing.has(files.join())) return;
  if (await fails(copy, files)) throw new Error(`These fail before anything is changed: ${files.join(', ')}.`);
  passing.add(files.join());
}

const all = filesIn('src/core')
  .filter((f) => !textFiles.test(f) && f.startsWith(asked.only))
  .flatMap(mutantsOf)
  .filter((m) => asked.at === '' || asked.at.split(',').includes(`${m.file}:${m.line}`));
const random = randomFrom(Number(asked.seed));
const chosen = all
  .map((mutant) => ({ mutant, at: random() }))
  .sort((a, b) => a.at - b.at)
  .slice(0, Number(asked.count))
  .map(({ mutant }) => mutant);

const survived: Mutant[] = [];
let done = 0;
async function work(k: number): Promise<void> {
  const copy = copyOf(k);
  for (let mutant = chosen.pop(); mutant; mutant = chosen.pop()) {
    const path = join(copy, mutant.file);
    const text = readFileSync(path, 'utf8');
    writeFileSync(path, text.slice(0, mutant.from) + mutant.text + text.slice(mutant.to));
    let caught = '';
    for (const stage of nearest(mutant.file))
      if (await fails(copy, stage)) {
        caught = stage[0]!;
        break;
      }
    writeFileSync(path, text);
    if (caught)
      await passes(
        copy,
        nearest(mutant.file).find((stage) => stage[0] === caught)!,
      );
    done++;
    if (!caught) survived.push(mutant);
    console.log(`${done} ${caught ? 'caught' : 'LIVES '} ${mutant.file}:${mutant.line}  ${mutant.says.replace(/\s+/g, ' ')}`);
  }
}

const count = chosen.length;
console.log(`${all.length} changes can be made; ${count} are, one at a time.`);
await Promise.all(Array.from({ length: COPIES }, (_, k) => work(k)));
rmSync(join(root, 'test-results/mutants'), { recursive: true, force: true });
const share = (count - survived.length) / count;
console.log('\nNot caught:');
for (const m of survived.sort((a, b) => a.file.localeCompare(b.file) || a.line - b.line))
  console.log(`  ${m.file}:${m.line}  ${m.says.replace(/\s+/g, ' ')}`);
console.log(`\n${count - survived.length} of ${count} caught: ${(share * 100).toFixed(1)} %`);
process.exit(share < BOUND ? 1 : 0);
