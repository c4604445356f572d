import fc from 'fast-check';
import { NAME, fitRow, type Measured } from './fitting.js';

const row = (more: Partial<Measured> = {}): Measured => ({
  ...{ name: 50, operation: 40, sign: false, twice: false, inputs: [], right: 340 },
  ...more,
});
const inputs = (...widths: number[]) => widths.map((bare) => ({ bare, labelled: bare + 30 }));

test('what is short stands in its columns', () => {
  expect(fitRow(row({ inputs: inputs(30) }))).toMatchObject({
    ...{ name: 50, operation: { left: 158, width: 40 }, inputs: 222, shown: 1, labelled: [true] },
  });
});

test('a long name pushes what is right of it; nothing is cut while there is room', () => {
  const fitted = fitRow(row({ name: 110, operation: 70, inputs: inputs(40) }));
  expect(fitted).toMatchObject({ name: 110, operation: { left: 204, width: 70 }, inputs: 282, shown: 1, labelled: [false] });
});

test('inputs lose their labels, then the last of them their place, before a name is cut', () => {
  expect(fitRow(row({ inputs: inputs(50, 50) }))).toMatchObject({ shown: 2, labelled: [false, false] });
  expect(fitRow(row({ inputs: inputs(40, 40), right: 342 }))).toMatchObject({ shown: 2, labelled: [true, false] });
  expect(fitRow(row({ inputs: inputs(50, 50, 50) }))).toMatchObject({ shown: 1, labelled: [true], name: 50 });
});

test('whatever is measured: nothing overlaps, and nothing is cut but where the first input would have no room', () => {
  const width = fc.integer({ min: 6, max: 190 });
  fc.assert(
    fc.property(
      fc.record({
        name: width,
        operation: fc.integer({ min: 20, max: 120 }),
        sign: fc.boolean(),
        twice: fc.boolean(),
        inputs: fc.array(fc.record({ bare: fc.integer({ min: 20, max: 90 }), more: fc.integer({ min: 0, max: 60 }) }), {
          maxLength: 6,
        }),
        right: fc.integer({ min: 300, max: 560 }),
      }),
      ({ inputs: all, ...rest }) => {
        const given = all.map(({ bare, more }) => ({ bare, labelled: bare + more }));
        const m = { ...rest, operation: rest.sign ? 0 : rest.operation, inputs: given };
        const f = fitRow(m);
        expect(NAME + f.name + 8).toBeLessThanOrEqual(f.operation.left);
        expect(f.operation.left + f.operation.width).toBeLessThanOrEqual(f.inputs);
        const cut = f.name < m.name || (!m.twice && f.operation.width < m.operation);
        if (cut) expect(f.room).toBeLessThanOrEqual((given[0]?.bare ?? 0) + 20);
        const used = given
          .slice(0, f.shown)
          .reduce((sum, i, k) => sum + (f.labelled[k] ? i.labelled : i.bare) + (k > 0 ? 5 : 0), 0);
        if (f.shown > 1) expect(used).toBeLessThanOrEqual(f.room);
      },
    ),
    { seed: 20261128, numRuns: 500 },
  );
});
