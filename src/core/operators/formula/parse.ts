/** Reads a formula: GLSL expressions over letters that stand for strands. Every error says at which character. */

export type Expression =
  | { readonly kind: 'number'; readonly value: number; readonly at: number }
  | { readonly kind: 'name'; readonly name: string; readonly at: number }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Expression[]; readonly at: number }
  | { readonly kind: 'part'; readonly of: Expression; readonly part: string; readonly at: number }
  | { readonly kind: 'unary'; readonly sign: '-' | '!'; readonly of: Expression; readonly at: number }
  | { readonly kind: 'binary'; readonly sign: string; readonly left: Expression; readonly right: Expression; readonly at: number }
  | {
      readonly kind: 'choice';
      readonly condition: Expression;
      readonly yes: Expression;
      readonly no: Expression;
      readonly at: number;
    };

/** What is wrong with a formula, and where: characters are counted from 0. */
export class FormulaError extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message);
  }
}

interface Token {
  readonly kind: 'number' | 'name' | 'sign' | 'end';
  readonly text: string;
  readonly at: number;
}

const TOKEN = /\s*(?:((?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)|([A-Za-z_]\w*)|(<=|>=|==|!=|&&|\|\||[-+*/%(),.<>?:!]))/y;

function tokens(text: string): Token[] {
  const found: Token[] = [];
  TOKEN.lastIndex = 0;
  let end = 0;
  while (end < text.length) {
    TOKEN.lastIndex = end;
    const match = TOKEN.exec(text);
    if (!match) {
      const rest = text.slice(end);
      const at = end + (rest.length - rest.trimStart().length);
      if (at >= text.length) break;
      throw new FormulaError(`"${text[at]}" means nothing in a formula`, at);
    }
    const [whole, number, name, sign] = match;
    end = TOKEN.lastIndex;
    const word = number ?? name ?? sign!;
    found.push({ kind: number ? 'number' : name ? 'name' : 'sign', text: word, at: end - word.length });
    void whole;
  }
  found.push({ kind: 'end', text: '', at: text.length });
  return found;
}

/** How tightly each sign binds; larger is tighter. */
const BINDS: Readonly<Record<string, number>> = {
  '||': 1,
  '&&': 2,
  '==': 3,
  '!=': 3,
  '<': 4,
  '>': 4,
  '<=': 4,
  '>=': 4,
  '+': 5,
  '-': 5,
  '*': 6,
  '/': 6,
  '%': 6,
};
const DEEPEST = 60;

class Parser {
  private next = 0;
  private depth = 0;

  constructor(private readonly list: readonly Token[]) {}

  private get token(): Token {
    return this.list[this.next]!;
  }

  private takes(text: string): boolean {
    if (this.token.kind !== 'sign' || this.token.text !== text) return false;
    this.next++;
    return true;
  }

  private expect(text: string, why: string): void {
    if (this.takes(text)) return;
    const { kind, text: found, at } = this.token;
    throw new FormulaError(kind === 'end' ? `the formula ends where ${why}` : `"${found}" stands where ${why}`, at);
  }

  whole(): Expression {
    const made = this.choice();
    if (this.token.kind !== 'end')
      throw new FormulaError(`"${this.token.text}" stands where the formula should end`, this.token.at);
    return made;
  }

  private choice(): Expression {
    if (++this.depth > DEEPEST) throw new FormulaError('the formula is nested too deeply', this.token.at);
    const condition = this.binary(1);
    const { at } = this.token;
    if (!this.takes('?')) {
      this.depth--;
      return condition;
    }
    const yes = this.choice();
    this.expect(':', 'a ":" is needed');
    const no = this.choice();
    this.depth--;
    return { kind: 'choice', condition, yes, no, at };
  }

  private binary(least: number): Expression {
    let left = this.unary();
    for (;;) {
      const { kind, text, at } = this.token;
      const level = kind === 'sign' ? BINDS[text] : undefined;
      if (level === undefined || level < least) return left;
      this.next++;
      left = { kind: 'binary', sign: text, left, right: this.binary(level + 1), at };
    }
  }

  private unary(): Expression {
    const { at } = this.token;
    if (++this.depth > DEEPEST) throw new FormulaError('the formula is nested too deeply', at);
    let made: Expression;
    if (this.takes('-')) made = { kind: 'unary', sign: '-', of: this.unary(), at };
    else if (this.takes('!')) made = { kind: 'unary', sign: '!', of: this.unary(), at };
    else if (this.takes('+')) made = this.unary();
    else made = this.parts();
    this.depth--;
    return made;
  }

  private parts(): Expression {
    let of = this.primary();
    while (this.takes('.')) {
      const { kind, text, at } = this.token;
      if (kind !== 'name' || !/^([xyzw]{1,4}|[rgba]{1,4})$/.test(text))
        throw new FormulaError('after a point comes one to four of xyzw, or of rgba', at);
      this.next++;
      of = { kind: 'part', of, part: text, at };
    }
    return of;
  }

  private primary(): Expression {
    const { kind, text, at } = this.token;
    this.next++;
    if (kind === 'number') return { kind: 'number', value: Number(text), at };
    if (kind === 'name') {
      if (!this.takes('(')) return { kind: 'name', name: text, at };
      const args: Expression[] = [];
      if (!this.takes(')')) {
        do args.push(this.choice());
        while (this.takes(','));
        this.expect(')', 'a ")" or a "," is needed');
      }
      return { kind: 'call', name: text, args, at };
    }
    if (kind === 'sign' && text === '(') {
      const inner = this.choice();
      this.expect(')', 'a ")" is needed');
      return inner;
    }
    this.next--;
    throw new FormulaError(
      kind === 'end' ? 'the formula ends where a value is needed' : `"${text}" stands where a value is needed`,
      at,
    );
  }
}

/** @throws FormulaError */
export function parseFormula(text: string): Expression {
  const list = tokens(text);
  if (list.length === 1) throw new FormulaError('the formula is empty', 0);
  return new Parser(list).whole();
}

/** Every name that stands for a value, with where it stands. */
export function namesIn(text: string): { name: string; at: number }[] {
  const list = tokens(text);
  return list.flatMap((t, k) => {
    const before = list[k - 1];
    const after = list[k + 1];
    const isPart = before?.kind === 'sign' && before.text === '.';
    const isCall = after?.kind === 'sign' && after.text === '(';
    return t.kind === 'name' && !isPart && !isCall ? [{ name: t.text, at: t.at }] : [];
  });
}
