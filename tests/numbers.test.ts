/**
 * An operator's numbers stay what they are: files of artists rest on them, and a change is a revision of the operator.
 * The fixture is made by `npm run numbers`; whether its numbers are right, the tests beside each operator say.
 */
import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { numbersNow } from './fixtures/numbers.js';

const file = join(dirname(fileURLToPath(import.meta.url)), 'fixtures/numbers.json');
const kept = JSON.parse(readFileSync(file, 'utf8')) as Record<string, (number | null)[]>;

test('every operator gives the numbers that it gave, with every option', () => {
  const now = numbersNow();
  expect(Object.keys(now)).toEqual(Object.keys(kept));
  const changed = Object.entries(now).flatMap(([name, values]) => {
    const off = values.findIndex((v, k) => {
      const was = kept[name]![k];
      // JSON has no word for what is not finite.
      if (was === null) return Number.isFinite(v);
      return !(Math.abs(v - was!) <= 2e-5 * Math.max(0.01, Math.abs(was!)));
    });
    return off < 0 && values.length === kept[name]!.length ? [] : [`${name}: ${values[off]} was ${kept[name]![off]}`];
  });
  expect(changed).toEqual([]);
});
