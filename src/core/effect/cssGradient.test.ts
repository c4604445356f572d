import { readGradient } from './cssGradient.js';

const stopsOf = (text: string) => {
  const read = readGradient(text);
  return read.ok ? read.stops.map((s) => [s.at, ...s.rgb]) : read.why;
};
const placesOf = (text: string) => {
  const read = readGradient(text);
  return read.ok ? read.stops.map((s) => s.at) : read.why;
};

test('colours and places as CSS has them: those without a place stand evenly between their neighbours', () => {
  // CSS Images Level 3, section 3.4.3: red 40%, white, black, blue = white at 60 %, black at 80 %, blue at 100 %.
  expect(stopsOf('linear-gradient(red 40%, white, black, blue)')).toEqual([
    [0.4, 1, 0, 0],
    [0.6, 1, 1, 1],
    [0.8, 0, 0, 0],
    [1, 0, 0, 1],
  ]);
  // A place before an earlier one moves to it.
  expect(placesOf('linear-gradient(red 40%, white 20%, blue)')).toEqual([0.4, 0.4, 1]);
  expect(placesOf('red 10% 30%, blue')).toEqual([0.1, 0.3, 1]);
});

test('what is said before the colours: a direction means nothing, a space does', () => {
  expect(readGradient('linear-gradient(to right in oklab, #ff8000, rgb(0 0 0 / 1))')).toMatchObject({ ok: true, space: 'oklab' });
  expect(readGradient('linear-gradient(0.25turn, #000, #fff);')).toMatchObject({ ok: true, space: null });
  // sRGB 0x80 is 0.21586 in linear light: IEC 61966-2-1.
  expect(stopsOf('linear-gradient(90deg, #808080 0%, oklch(0.7 0.1 200) 100%)')[0]).toEqual([0, 0.21586, 0.21586, 0.21586]);
});

test('what is wrong is said', () => {
  expect(stopsOf('linear-gradient(reddish, blue)')).toBe('“reddish” is no colour.');
  expect(stopsOf('')).toContain('no colour');
  expect(stopsOf(Array.from({ length: 99 }, () => 'red').join(','))).toContain('stops at most');
});
