import { KEYS } from '../sheet/KeysHelp.js';
import { answers, type Command } from './commands.js';

const named = (title: string, words: string[] = []): Command => ({
  id: title,
  title,
  group: 'Sheet',
  words,
  run: () => undefined,
});

test('a command answers to its title first, then to words in any order, then to its other words, else not at all', () => {
  const fold = named('Fold Joined');
  const cut = named('Line cut', ['subtract']);
  expect(answers(cut, 'line cut')).toBe(1);
  expect(answers(cut, 'Line')).toBeGreaterThan(answers(cut, 'cut'));
  expect(answers(cut, 'cut')).toBeGreaterThan(answers(cut, 'cut line'));
  expect(answers(cut, 'cut line')).toBeGreaterThan(answers(cut, 'subtract'));
  expect(answers(cut, 'subtract')).toBeGreaterThan(0);
  expect(answers(fold, 'line cut')).toBe(0);
});

test('the list of keys names no key twice in one place', () => {
  for (const { keys } of KEYS) expect(new Set(keys.map(([key]) => key)).size).toBe(keys.length);
});
