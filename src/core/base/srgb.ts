/** The sRGB transfer, and colours as CSS writes them. */

/** IEC 61966-2-1, one component 0..1. */
export const srgbEncode = (x: number): number => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);
export const srgbDecode = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);

/** `#rgb` or `#rrggbb` (CSS Color 4, 5.2) in linear Rec.709; null for anything else. */
export function fromHex(text: string): [number, number, number] | null {
  const [, digits] = /^#([0-9a-f]{3}|[0-9a-f]{6})$/i.exec(text.trim()) ?? [];
  if (digits === undefined) return null;
  const pairs = digits.length === 3 ? [...digits].map((d) => d + d) : (digits.match(/../g) as string[]);
  return pairs.map((p) => Number(srgbDecode(parseInt(p, 16) / 255).toFixed(6))) as [number, number, number];
}
