/**
 * Everything that can be reached, each once; deep graphs are no depth of calls.
 * @param next what a node leads to; asked once a node
 * @param seen what has been reached before: it is passed by, with all behind it, and what is found is added
 * @returns what was found now, in no order that means anything
 */
export function reach<T>(roots: Iterable<T>, next: (node: T) => readonly T[], seen = new Set<T>()): T[] {
  const pending = [...roots];
  const found: T[] = [];
  while (pending.length > 0) {
    const node = pending.pop()!;
    if (seen.has(node)) continue;
    seen.add(node);
    found.push(node);
    for (const after of next(node)) pending.push(after);
  }
  return found;
}
