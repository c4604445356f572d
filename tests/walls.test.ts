/** The linter holds the direction of imports: what must not be imported is an error. */
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** What the linter says of texts as if they stood in these files; nothing is written. */
function lint(texts: Readonly<Record<string, readonly [folder: string, code: string]>>): Record<string, string[]> {
  const script = `
    import { ESLint } from 'eslint';
    const eslint = new ESLint();
    const found = {};
    for (const [name, [folder, code]] of Object.entries(${JSON.stringify(texts)})) {
      const [result] = await eslint.lintText(code, { filePath: folder + '/wallCheck.ts' });
      found[name] = result.messages.map((m) => m.ruleId);
    }
    console.log(JSON.stringify(found));
  `;
  const env = { ...process.env, NODE_OPTIONS: '' };
  const { stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', script], {
    cwd: root,
    encoding: 'utf8',
    env,
  });
  if (stdout === '') throw new Error(stderr);
  return JSON.parse(stdout) as Record<string, string[]>;
}

test('the core knows neither pages nor servers nor chance; the session knows no React; targets do not reach up', () => {
  const { good, ...bad } = lint({
    react: ['src/core/ir', "import 'react';\n"],
    web: ['src/core/effect', "import '../../web/ui/colour.js';\n"],
    node: ['src/core/formats', "import 'node:fs';\n"],
    chance: ['src/core/optics', 'export const x = Math.random();\n'],
    up: ['src/core/ir', "import '../targets/wasm.js';\n"],
    session: ['src/session', "import 'react';\n"],
    server: ['src/web/data', "import '../../server/app.js';\n"],
    good: ['src/session', "import '../core/effect/edits.js';\n"],
  });
  for (const [name, rules] of Object.entries(bad))
    expect([name, rules.some((r) => r.startsWith('no-restricted'))]).toEqual([name, true]);
  expect(good).toEqual([]);
});
