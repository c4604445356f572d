/** The linter holds the direction of imports: what must not be imported is an error. */
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { spawnSync } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

function lint(folder: string, code: string): string {
  const file = join(root, folder, 'wallCheck.ts');
  writeFileSync(file, code);
  try {
    return spawnSync(process.execPath, ['node_modules/eslint/bin/eslint.js', file], { cwd: root, encoding: 'utf8' }).stdout;
  } finally {
    rmSync(file);
  }
}

test('the core knows neither pages nor servers nor chance; the session knows no React; targets do not reach up', () => {
  const found = {
    react: lint('src/core/ir', "import 'react';\n"),
    web: lint('src/core/effect', "import '../../web/ui/colour.js';\n"),
    node: lint('src/core/formats', "import 'node:fs';\n"),
    chance: lint('src/core/optics', 'export const x = Math.random();\n'),
    up: lint('src/core/ir', "import '../targets/wasm.js';\n"),
    session: lint('src/session', "import 'react';\n"),
    server: lint('src/web/data', "import '../../server/app.js';\n"),
  };
  for (const [name, output] of Object.entries(found)) expect([name, /no-restricted/.test(output)]).toEqual([name, true]);
  expect(lint('src/session', "import '../core/effect/edits.js';\n")).toBe('');
});
