/** Steps that are put between a strand and its readers by one press. */
export type Wrap = 'invert' | 'clamp' | 'unit' | 'dial';

interface WrapRecord {
  readonly op: string;
  /** The input that reads the strand. */
  readonly reads: string;
  readonly name: (strand: string) => string;
  /** Numbers of its other inputs. */
  readonly beside: Readonly<Record<string, number>>;
  /** The inputs that get the ends of what the strand can be. */
  readonly ends?: readonly [string, string];
  /** What its options are set to. */
  readonly options?: Readonly<Record<string, string>>;
  /** The input that becomes a dial. */
  readonly dial?: string;
}

export const WRAP_RECORDS: Readonly<Record<Wrap, WrapRecord>> = {
  invert: { op: 'subtract', reads: 'b', name: (strand) => `Not ${strand}`, beside: { a: 1 } },
  clamp: { op: 'clamp', reads: 'in', name: (strand) => `${strand} held`, beside: {} },
  unit: {
    op: 'remap',
    reads: 'in',
    name: (strand) => `${strand} 0..1`,
    beside: {},
    ends: ['fromLow', 'fromHigh'],
    options: { outside: 'clamp' },
  },
  dial: { op: 'multiply', reads: 'a', name: (strand) => `${strand} amount`, beside: { b: 1 }, dial: 'b' },
};

/** Steps that are put between where a value is of another kind than what reads it: the input that reads each component. */
export const BRIDGES = {
  luminance: { op: 'luminance', reads: [{ input: 'in' }], name: (strand: string) => `${strand} luminance` },
  join: {
    op: 'join',
    reads: [
      { input: 'x', part: 'x' },
      { input: 'y', part: 'y' },
      { input: 'z', value: 0 },
    ],
    name: (strand: string) => `${strand} joined`,
  },
} as const satisfies Record<string, BridgeRecord>;
export type Bridge = keyof typeof BRIDGES;

interface BridgeRecord {
  readonly op: string;
  readonly reads: readonly { readonly input: string; readonly part?: string; readonly value?: number }[];
  readonly name: (strand: string) => string;
}
