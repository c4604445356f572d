/** Every kernel keeps what it says of itself: for any values within intervals of its arguments, it lies in its range. */
import { Builder } from '../src/core/ir/builder.js';
import { baseOf, widthOf, type Interval } from '../src/core/ir/types.js';
import { ranges } from '../src/core/passes/ranges.js';
import { scalarise } from '../src/core/passes/scalarise.js';
import { evaluate } from '../src/core/targets/reference.js';
import { kernels } from './fixtures/kernels.js';
import { randomFrom } from './fixtures/sheets.js';

const all = kernels();
test('there are as many as the operators call', () => expect(all.length).toBeGreaterThan(30));

test.each(all.map((kernel) => [kernel.name, kernel] as const))('%s', (_, kernel) => {
  const random = randomFrom(kernel.name.length * 31 + kernel.params.length);
  for (let box = 0; box < 8; box++) {
    const b = new Builder();
    const intervals: Interval[] = [];
    const args = kernel.params.map(({ type }) =>
      b.join(
        ...Array.from({ length: widthOf(type) }, () => {
          // Wide ones and narrow ones, on both sides of 0 and on one.
          const low = Math.fround((random() - 0.5) * (box % 2 === 0 ? 20 : 2));
          intervals.push({ low, high: Math.fround(low + random() * (box % 3 === 0 ? 0.1 : 8)) });
          const number = b.param(intervals.length - 1, 1);
          return baseOf(type) === 'i' ? b.op('ftoi', b.mul(number, 1000)) : number;
        }),
      ),
    );
    const scalar = scalarise([b.call(kernel, ...args)], { paste: false });
    const [claimed] = ranges(scalar, intervals, 4) as [(Interval | null)[]];
    for (let k = 0; k < 16; k++) {
      const params = intervals.map(({ low, high }) => Math.fround(low + (high - low) * (k < 2 ? k : random())));
      evaluate(scalar, { params, leaves: {} })[0]!.forEach((v, lane) => {
        const range = claimed[lane];
        if (!range) return;
        const slack = 1e-4 * Math.max(1, Math.abs(v));
        expect([kernel.name, v >= range.low - slack && v <= range.high + slack, v, range]).toEqual([kernel.name, true, v, range]);
      });
    }
  }
});
