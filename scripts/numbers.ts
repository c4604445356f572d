// Writes what every operator gives now: `npm run numbers`, after a change that is meant.
import { writeFileSync } from 'node:fs';
import { numbersNow } from '../tests/fixtures/numbers.js';

const lines = Object.entries(numbersNow()).map(([name, values]) => `  ${JSON.stringify(name)}: ${JSON.stringify(values)}`);
writeFileSync('tests/fixtures/numbers.json', `{\n${lines.join(',\n')}\n}\n`);
