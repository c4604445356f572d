/** Parts of a list, but for commas within brackets; without the spaces around them. */
export function listed(text: string): string[] {
  const parts = [''];
  let depth = 0;
  for (const c of text) {
    depth += c === '(' ? 1 : c === ')' ? -1 : 0;
    if (c === ',' && depth === 0) parts.push('');
    else parts[parts.length - 1] += c;
  }
  return parts.map((p) => p.trim());
}
