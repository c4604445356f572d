/** Shapes of time. */
import { exp2 } from '../ir/kernels/transcendental.js';
import { MAX_OCTAVES, fractalOf } from '../ir/kernels/fractal.js';
import type { Builder } from '../ir/builder.js';
import { widthOf, type Node } from '../ir/types.js';
import { NEVER, clock, trigger } from './inputs.js';
import { closing, lappedCells } from './closing.js';
import { sine } from './space.js';
import { operator, type OperatorRecord } from './record.js';
import { headingOf } from './space.js';

/** A wave of one turn, from -1 to 1; each begins at 0 and rises, as a sine does, but for the square and the saw. */
const SHAPES: Record<string, (b: Builder, turns: Node) => Node> = {
  sine,
  triangle: (b, turns) => {
    const f = b.composite('fract', b.add(turns, 0.75));
    return b.sub(b.mul(b.op('abs', b.sub(f, 0.5)), 4), 1);
  },
  square: (b, turns) => b.op('select', b.op('lt', b.composite('fract', turns), 0.5), 1, -1),
  saw: (b, turns) => b.sub(b.mul(b.composite('fract', turns), 2), 1),
};

/**
 * Where a flicker runs through its lattice: noise is 0 at the corners, so that along a row of them every lamp would pass
 * through the middle in step. The golden ratio's part stays between rows in finer octaves too.
 */
const BETWEEN_ROWS = 0.618034;

export const TIME: readonly OperatorRecord[] = [
  operator({
    id: 'wave',
    label: 'wave',
    family: 'Shapes of time',
    picture: { time: '@ramp', rate: 3, low: 0 },
    motion: { kind: 'rated', rate: 'rate' },
    pace: 'rate',
    summary: 'A regular swing between two values, so many times a second.',
    keywords: ['sine', 'triangle', 'square', 'saw', 'oscillate', 'pulse'],
    inputs: {
      time: clock,
      rate: { kind: '1', default: 1, soft: [0, 10], unit: 'Hz', note: 'how often it swings' },
      phase: { wants: 'random', kind: '1', default: 0, soft: [0, 1], unit: 'turns', note: 'where in its swing it begins' },
      delay: { kind: '1', default: 0, soft: [0, 2], unit: 's', note: 'how much later it happens' },
      low: { kind: '1', default: -1, soft: [-1, 1], note: 'the lower end' },
      high: { kind: '1', default: 1, soft: [-1, 1], note: 'the upper end' },
    },
    options: { shape: { values: Object.keys(SHAPES), default: 'sine', note: 'the form of the swing' } },
    outputs: [{ id: 'value', kind: '1', note: 'between low and high' }],
    lower: ({ b, options }, x) => {
      const turns = b.add(b.mul(x.rate!, b.sub(x.time!, x.delay!)), x.phase!);
      const swing = SHAPES[options.shape!]!(b, turns);
      return { value: b.composite('mix', x.low!, x.high!, b.add(b.mul(swing, 0.5), 0.5)) };
    },
  }),
  operator({
    id: 'pulse',
    label: 'pulse',
    family: 'Shapes of time',
    wild: true,
    picture: { time: '@ramp', rate: 3 },
    motion: { kind: 'rated', rate: 'rate' },
    pace: 'rate',
    summary: 'A beat that rises and dies away, so many times a second.',
    keywords: ['envelope', 'beat', 'attack', 'decay', 'heartbeat', 'flash', 'blink'],
    inputs: {
      time: clock,
      rate: { kind: '1', default: 1, soft: [0, 10], unit: 'Hz', note: 'how often it beats' },
      attack: { kind: '1', default: 0.05, soft: [0, 1], unit: 's', note: 'how long it takes to rise' },
      decay: { kind: '1', default: 0.2, soft: [0.01, 2], unit: 's', note: 'in which it falls to 37 %' },
    },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    source: 'min(t / attack, 1) exp(-max(t - attack, 0) / decay), t since the beat; common practice, no source',
    lower: ({ b }, x) => {
      const since = b.div(b.composite('fract', b.mul(x.time!, x.rate!)), x.rate!);
      // Held: at a rate below 0 nothing has begun.
      const rise = b.op('select', b.op('lt', since, x.attack!), b.composite('clamp', b.div(since, x.attack!), 0, 1), 1);
      const fall = b.div(b.op('max', b.sub(since, x.attack!), 0), x.decay!);
      return { value: b.mul(rise, b.call(exp2, b.mul(fall, -Math.LOG2E))) };
    },
  }),
  operator({
    id: 'age',
    label: 'age',
    family: 'Shapes of time',
    wild: true,
    motion: { kind: 'fired' },
    means: 'time',
    summary: 'Seconds since a trigger was fired: the latest time, the last four, and where each of them was.',
    keywords: ['trigger', 'event', 'hit', 'since', 'fired', 'impact', 'touch'],
    inputs: {},
    literals: { trigger },
    options: { over: { ...closing, note: 'a loop begins with none, or still hears the lap before' } },
    outputs: [
      { id: 'value', kind: '1', means: 'time', note: 'seconds since the latest firing; 1e6 before the first' },
      { id: 'all', kind: '4', note: 'seconds since each of the last four, the latest first' },
      { id: 'share', kind: '1', means: 'mask', note: '0 at the latest firing, 1 once its duration is over' },
      ...['place', 'place2', 'place3', 'place4'].map((id, k) => ({
        id,
        kind: '3' as const,
        means: 'place' as const,
        note: `where the ${['latest', 'one before', 'third last', 'fourth last'][k]} was, in the prop’s own space`,
      })),
    ],
    lower: ({ b, options, texts, triggers, fail }) => {
      const heard = triggers.trigger?.(options.over === 'loop');
      if (!heard && texts.trigger) return fail('trigger', `There is no trigger ${JSON.stringify(texts.trigger)}.`);
      const ages = heard?.ages ?? [1, 2, 3, 4].map(() => b.constant(NEVER));
      const places = heard?.places ?? [1, 2, 3, 4].map(() => b.constant(0, 0, 0));
      const share = b.composite('clamp', b.div(ages[0]!, b.op('max', heard?.duration ?? b.constant(1), 1e-6)), 0, 1);
      const [place, place2, place3, place4] = places as [Node, Node, Node, Node];
      return { value: ages[0]!, all: b.join(...ages), share, place, place2, place3, place4 };
    },
  }),
  operator({
    id: 'envelope',
    label: 'envelope',
    family: 'Shapes of time',
    picture: { age: '@ramp', attack: 0.1, hold: 0.2, release: 0.6 },
    summary: 'Rises, stays and falls once after an event, by its age; several ages give several of it.',
    keywords: ['attack', 'hold', 'release', 'decay', 'adsr', 'flash', 'trigger', 'event'],
    inputs: {
      age: { wants: 'time', kind: 'any', default: NEVER, soft: [0, 5], unit: 's', note: 'seconds since the event' },
      attack: { kind: '1', default: 0.05, soft: [0, 1], unit: 's', note: 'how long it takes to rise' },
      hold: { kind: '1', default: 0, soft: [0, 2], unit: 's', note: 'how long it stays' },
      release: { kind: '1', default: 0.4, soft: [0.01, 4], unit: 's', note: 'how long it takes to fall' },
    },
    options: {
      shape: { values: ['linear', 'smooth', 'sharp'], default: 'smooth', note: 'even, with soft ends, or quick at first' },
    },
    outputs: [{ id: 'value', kind: 'any', means: 'mask', note: '0 to 1' }],
    source: 'min(age / attack, 1) min(1 - (age - attack - hold) / release, 1), each clamped to 0..1; common practice, no source',
    lower: ({ b, options }, x) => {
      const since = x.age!;
      const [attack, hold, release] = [x.attack!, x.hold!, x.release!].map((n) => b.op('max', n, 0)) as [Node, Node, Node];
      const rise = b.composite('clamp', b.div(since, b.op('max', attack, 1e-6)), 0, 1);
      const left = b.sub(since, b.add(attack, hold));
      const fall = b.sub(1, b.composite('clamp', b.div(left, b.op('max', release, 1e-6)), 0, 1));
      const shaped = (n: Node) =>
        options.shape === 'linear' ? n : options.shape === 'sharp' ? b.mul(n, n) : b.mul(b.mul(n, n), b.sub(3, b.mul(n, 2)));
      // Before the event there is nothing, also where it rises in no time.
      const begun = b.op('select', b.op('lt', since, 0), 0, 1);
      return { value: b.mul(begun, b.mul(shaped(rise), shaped(fall))) };
    },
  }),
  operator({
    id: 'delay',
    means: 'time',
    hands: 'time',
    label: 'delay',
    family: 'Shapes of time',
    picture: { time: '@ramp', seconds: 0.2 },
    summary: 'A time that lags: by a painted mask or a height, so that motion travels.',
    keywords: ['lag', 'offset', 'later', 'travel', 'ripple'],
    inputs: {
      time: clock,
      seconds: { wants: 'mask', kind: '1', default: 0, soft: [0, 2], unit: 's', note: 'how much later' },
    },
    outputs: [{ id: 'value', kind: '1', note: 'seconds; may be below 0' }],
    lower: ({ b }, x) => ({ value: b.sub(x.time!, x.seconds!) }),
  }),
  operator({
    id: 'flicker',
    label: 'flicker',
    family: 'Shapes of time',
    wild: true,
    picture: { time: '@ramp', rate: 9, low: -0.1, octaves: 3 },
    motion: { kind: 'wanders', by: 'time' },
    pace: 'rate',
    summary: 'An irregular flicker between a floor and a ceiling; another seed, another lamp.',
    keywords: ['noise', 'tube', 'fire', 'lamp', 'candle', 'organic', 'random', 'blink', 'unsteady', 'light'],
    inputs: {
      time: clock,
      rate: { kind: '1', default: 4, soft: [0, 20], unit: 'Hz', note: 'how quick it is' },
      seed: {
        wants: 'random',
        kind: '1',
        default: 0,
        soft: [0, 100],
        note: 'each whole number another lamp, fractions shift it: no two flicker together, or after one another',
      },
      low: { kind: '1', default: 0, soft: [-1, 1], note: 'the floor' },
      high: { kind: '1', default: 1, soft: [-1, 1], note: 'the ceiling' },
      smoothness: { kind: '1', default: 1, soft: [0, 1], note: '1 swings, 0 jumps from one value to the next' },
      octaves: { kind: '1', default: 1, soft: [1, MAX_OCTAVES], note: 'how many finer flickers lie on it, 1 to 8' },
    },
    options: { over: closing },
    outputs: [{ id: 'value', kind: '1', note: 'between low and high' }],
    source:
      'gradient noise (Perlin 2002) of rate x time + the seed’s fraction, along a line between two rows of its lattice; clamped',
    lower: ({ b, options }, x) => {
      const loops = options.over === 'loop';
      // Whole seeds choose the noise, fractions shift it: added to the time whole, a seed would be another's time.
      const whole = b.op('floor', x.seed!);
      const lane = lappedCells(b, x.time!, x.rate!);
      const place = b.add(loops ? lane.at : b.mul(x.time!, x.rate!), b.sub(x.seed!, whole));
      // Within each unit the way is gone in the middle part only, the smaller the more sudden.
      const shifted = b.add(place, 0.5);
      const cell = b.op('floor', shifted);
      const within = b.sub(b.sub(shifted, cell), 0.5);
      const smooth = b.op('max', x.smoothness!, 1e-4);
      const gone = b.composite('clamp', b.add(b.div(within, smooth), 0.5), 0, 1);
      const at = b.op('select', b.op('lt', x.smoothness!, 1), b.sub(b.add(cell, gone), 0.5), place);
      const octaves = b.composite('clamp', x.octaves!, 1, MAX_OCTAVES);
      const count = octaves.op === 'const' ? Math.ceil(octaves.values![0]!) : MAX_OCTAVES;
      const rest = [whole, octaves, b.constant(2), b.constant(0.5)];
      const kernel = fractalOf(2, 'fbm', count, loops);
      const noise = b.call(kernel, b.join(b.constant(BETWEEN_ROWS), at), ...rest, ...(loops ? [lane.period] : []));
      return { value: b.composite('clamp', noise, x.low!, x.high!) };
    },
  }),
  operator({
    id: 'beat',
    label: 'beat',
    family: 'Shapes of time',
    wild: true,
    picture: { time: '@ramp', pattern: { text: '1011000101' }, rate: 10 },
    motion: { kind: 'rated', rate: 'rate', steps: ({ pattern }) => pattern!.replace(/[^01]/g, '').length },
    pace: 'rate',
    summary: 'On and off by a written pattern of 1 and 0, over and over.',
    keywords: ['pattern', 'rhythm', 'morse', 'blink', 'sequence', 'signal', 'on and off'],
    inputs: {
      time: clock,
      rate: { kind: '1', default: 4, soft: [0, 16], unit: 'Hz', note: 'steps a second' },
      softness: { kind: '1', default: 0.2, soft: [0, 1], note: 'how much of a step a change takes' },
    },
    literals: { pattern: { form: 'text', default: '1010', note: 'up to 32 steps; 1 is on, 0 is off' } },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    lower: ({ b, texts, fail }, x) => {
      const steps = texts.pattern!.replace(/[\s.-]/g, '');
      if (!/^[01]{1,32}$/.test(steps)) {
        return fail('pattern', `The pattern is ${JSON.stringify(texts.pattern)}; it takes 1 to 32 steps of 1 and 0.`);
      }
      const count = steps.length;
      const lap = b.mul(b.composite('fract', b.mul(b.mul(x.time!, x.rate!), 1 / count)), count);
      const step = b.op('min', b.op('floor', lap), count - 1);
      const lit = (shift: number) =>
        [...steps].reduce<Node>(
          (sum, _, k) => (steps[(k + count - shift) % count] === '1' ? b.op('select', b.op('eq', step, k), 1, sum) : sum),
          b.constant(0),
        );
      const blend = b.composite('smoothstep', 0, x.softness!, b.sub(lap, step));
      return { value: b.composite('mix', lit(1), lit(0), blend) };
    },
  }),
  operator({
    id: 'waves',
    label: 'waves',
    family: 'Shapes of time',
    wild: true,
    picture: {
      position: '@here',
      heading: 30,
      wavelengths: [0.9, 0.6, 0.4, 0.3],
      biases: [0.4, 0.4, 0.4, 0.4],
    },
    motion: { kind: 'waves', lengths: 'wavelengths', speeds: 'speeds' },
    summary: 'Four travelling waves whose sum hardly ever repeats: currents, swell, wind.',
    keywords: ['sum of sines', 'swell', 'current', 'wind', 'travelling', 'sway'],
    inputs: {
      position: { kind: ['1', '2', '3', 'rgb'], default: { leaf: 'worldPosition' }, soft: [-2, 2], note: 'where' },
      heading: { kind: '1', default: 0, soft: [-180, 180], unit: 'deg', note: 'where they go: 0 along x, 90 against z' },
      time: { kind: '1', default: { leaf: 'time' }, soft: [0, 10], unit: 's', note: 'the time they follow' },
      wavelengths: {
        kind: '4',
        default: [4.2, 2.3, 1.3, 0.7],
        soft: [0.1, 10],
        literal: 'vector',
        unit: 'm',
        note: 'crest to crest',
      },
      speeds: { kind: '4', default: [0.9, 0.7, 0.55, 0.4], soft: [-4, 4], literal: 'vector', note: 'metres a second' },
      biases: { kind: '4', default: [0, 0, 0, 0], soft: [-1, 1], literal: 'vector', note: 'added to each wave of -1 to 1' },
      amplitudes: { kind: '4', default: [1, 0.6, 0.35, 0.2], soft: [0, 2], literal: 'vector', note: 'how strong each is' },
    },
    outputs: [
      { id: 'total', kind: '1', note: 'all four together' },
      { id: 'first', kind: '1', note: 'the first three' },
      { id: 'fourth', kind: '1', note: 'the fourth alone' },
      { id: 'each', kind: '4', note: 'each of them' },
      { id: 'heading', kind: '3', note: 'where they go' },
    ],
    source: 'amplitude (sin 2 pi (along - speed time) / wavelength + bias), four of them',
    lower: ({ b }, x) => {
      const heading = headingOf(b, x.heading!);
      const width = widthOf(x.position!.type);
      const along =
        width === 3
          ? b.composite('dot', x.position!, heading)
          : width === 1
            ? x.position!
            : b.composite('dot', x.position!, b.join(b.pick(heading, 0), b.op('neg', b.pick(heading, 2))));
      const turns = b.div(b.sub(along, b.mul(x.speeds!, x.time!)), x.wavelengths!);
      const sines = sine(b, turns);
      const each = b.mul(b.add(sines, x.biases!), x.amplitudes!);
      const [p, q, r, s] = b.split(each) as [Node, Node, Node, Node];
      const first = b.add(b.add(p, q), r);
      return { total: b.add(first, s), first, fourth: s, each, heading };
    },
  }),
];
