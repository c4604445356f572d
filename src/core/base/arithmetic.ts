/** Arithmetic as it may be typed where a number is wanted: numbers, + - * / ^, brackets, pi, and a few functions. */

const CONSTANTS: Record<string, number> = { pi: Math.PI, e: Math.E };
const FUNCTIONS: Record<string, (x: number) => number> = {
  sqrt: Math.sqrt,
  sin: Math.sin,
  cos: Math.cos,
  abs: Math.abs,
  log2: Math.log2,
  exp: Math.exp,
};

/** @returns the value, or null when the text is not arithmetic or has no finite value */
export function calculate(text: string): number | null {
  const tokens =
    text
      .replace(/−/g, '-')
      .replace(/×/g, '*')
      .replace(/,/g, '.')
      .match(/\d*\.?\d+(?:e[+-]?\d+)?|[a-z]+\d*|[-+*/^()]|\S/gi) ?? [];
  let at = 0;
  const fail = (): never => {
    throw new SyntaxError();
  };
  const sum = (): number => {
    let value = product();
    for (;;) {
      if (tokens[at] === '+') (at++, (value += product()));
      else if (tokens[at] === '-') (at++, (value -= product()));
      else return value;
    }
  };
  const product = (): number => {
    let value = sign();
    for (;;) {
      if (tokens[at] === '*') (at++, (value *= sign()));
      else if (tokens[at] === '/') (at++, (value /= sign()));
      else return value;
    }
  };
  const sign = (): number => {
    if (tokens[at] === '-') return (at++, -sign());
    if (tokens[at] === '+') return (at++, sign());
    return raised();
  };
  const raised = (): number => {
    const base = atom();
    return tokens[at] === '^' ? (at++, base ** sign()) : base;
  };
  const bracket = (): number => {
    if (tokens[at++] !== '(') fail();
    const value = sum();
    if (tokens[at++] !== ')') fail();
    return value;
  };
  const atom = (): number => {
    const token = tokens[at];
    if (token === undefined) return fail();
    if (token === '(') return bracket();
    at++;
    if (/^[\d.]/.test(token)) return Number(token);
    const name = token.toLowerCase();
    if (Object.hasOwn(CONSTANTS, name)) return CONSTANTS[name]!;
    if (Object.hasOwn(FUNCTIONS, name)) return FUNCTIONS[name]!(bracket());
    return fail();
  };
  try {
    const value = sum();
    return at === tokens.length && Number.isFinite(value) && Math.abs(value) <= 1e9 ? value : null;
  } catch {
    return null;
  }
}
