/** A short, stable name for a text (FNV-1a, 32 bits): for telling texts apart, not for trust. */
export function textHash(text: string): string {
  let h = 0x811c9dc5;
  for (let k = 0; k < text.length; k++) h = Math.imul(h ^ text.charCodeAt(k), 0x01000193);
  return (h >>> 0).toString(16).padStart(8, '0');
}
