/** Steps that are put between a strand and its readers by one press. */
export type Wrap = 'invert' | 'clamp' | 'dial';

interface WrapRecord {
  readonly op: string;
  /** The input that reads the strand. */
  readonly reads: string;
  readonly name: (strand: string) => string;
  /** Numbers of its other inputs. */
  readonly beside: Readonly<Record<string, number>>;
  /** The input that becomes a dial. */
  readonly dial?: string;
}

export const WRAP_RECORDS: Readonly<Record<Wrap, WrapRecord>> = {
  invert: { op: 'subtract', reads: 'b', name: (strand) => `Not ${strand}`, beside: { a: 1 } },
  clamp: { op: 'clamp', reads: 'in', name: (strand) => `${strand} held`, beside: {} },
  dial: { op: 'multiply', reads: 'a', name: (strand) => `${strand} amount`, beside: { b: 1 }, dial: 'b' },
};
