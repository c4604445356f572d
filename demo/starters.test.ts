/** What is asked of every starter. */
import { strandsOf } from '../src/core/effect/schema.js';
import { lower } from '../src/core/lower/lower.js';
import { STARTERS, starter } from '../tests/fixtures/starters.js';

test.each(STARTERS)('%s: at most 24 strands, a note, a home, and dials that say what they are', (name) => {
  const effect = starter(name);
  expect(strandsOf(effect).length).toBeLessThanOrEqual(24);
  expect(effect.note.length).toBeGreaterThan(60);
  expect(effect.home).not.toBeNull();
  expect(effect.dials.length).toBeGreaterThan(2);
  for (const dial of effect.dials) expect(dial.label).not.toBe('');
  expect(lower(effect, { build: 'live' }).problems).toEqual([]);
});

