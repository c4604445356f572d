/**
 * Ramps as CSS gradients (CSS Images Level 4, linear-gradient), and colours as CSS writes them (CSS Color Level 4, read by
 * culori). Places are shares of the gradient's line; directions and pixels mean nothing to a ramp and are left out.
 */
import { converter, parse } from 'culori';
import { listed } from '../base/listed.js';
import { MAX_STOPS, type Ramp } from '../operators/record.js';

const linear = converter('lrgb');

export type ReadGradient =
  | { readonly ok: true; readonly stops: Ramp['stops']; readonly space: Ramp['space'] | null }
  | { readonly ok: false; readonly why: string };

const DIRECTION = /^(to\s|-?[\d.]+(deg|turn|rad|grad)\b)/;

/** @returns stops with places between 0 and 1; those without one stand evenly between their neighbours, as CSS has it */
export function readGradient(text: string): ReadGradient {
  const no = (why: string): ReadGradient => ({ ok: false, why });
  const inside = /^\s*(?:repeating-)?(?:linear|radial|conic)-gradient\(([\s\S]*)\)\s*;?\s*$/i.exec(text)?.[1] ?? text;
  const parts = listed(inside.trim());
  const first = parts[0]!.toLowerCase();
  const how =
    DIRECTION.test(first) || /\bin\s+[\w-]+/.test(first) || /^(circle|ellipse|from|at)\b/.test(first) ? parts.shift()! : '';
  const space = /\bin\s+oklab\b/i.test(how) ? 'oklab' : /\bin\s+srgb-linear\b/i.test(how) ? 'linear' : null;
  const found: { at: number | null; rgb: [number, number, number] }[] = [];
  for (const part of parts) {
    const places = [...part.matchAll(/\s(-?[\d.]+)%/g)].map((m) => Number(m[1]) / 100);
    const written = part.replace(/\s-?[\d.]+%/g, '').trim();
    const colour = linear(parse(written));
    if (!colour) return no(`“${written}” is no colour.`);
    const rgb = [colour.r, colour.g, colour.b].map((v) => Number(Math.max(0, v).toFixed(5))) as [number, number, number];
    for (const at of places.length > 0 ? places : [null]) found.push({ at, rgb });
  }
  if (found.length === 0) return no('There is no colour in it.');
  if (found.length > MAX_STOPS) return no(`A ramp has ${MAX_STOPS} stops at most; these are ${found.length}.`);
  found[0]!.at ??= 0;
  found.at(-1)!.at ??= 1;
  // No stop stands before one that comes earlier; those without a place share the way between their neighbours.
  let last = -Infinity;
  for (const stop of found) if (stop.at !== null) last = stop.at = Math.max(last, stop.at);
  found.forEach((stop, k) => {
    if (stop.at !== null) return;
    const before = found[k - 1]!.at!;
    const ahead = found.findIndex((s, j) => j > k && s.at !== null);
    stop.at = before + (found[ahead]!.at! - before) / (ahead - k + 1);
  });
  return { ok: true, space, stops: found.map(({ at, rgb }) => ({ at: Number(at!.toFixed(4)), rgb })) };
}
