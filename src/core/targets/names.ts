/** Names for shader text: from an artist's words to identifiers that no compiler minds. */

const RESERVED = new Set(
  (
    'attribute const uniform varying layout centroid flat smooth break continue do for while switch case default if else in out inout ' +
    'float int void bool true false invariant discard return struct precision highp mediump lowp main ' +
    'vec2 vec3 vec4 ivec2 ivec3 ivec4 uvec2 uvec3 uvec4 bvec2 bvec3 bvec4 uint mat2 mat3 mat4 sampler2D sampler3D samplerCube ' +
    'noperspective patch sample subroutine common partition active asm class union enum typedef template this packed resource goto ' +
    'inline noinline volatile public static extern external interface long short double half fixed unsigned superp input output ' +
    'hvec2 hvec3 hvec4 dvec2 dvec3 dvec4 fvec2 fvec3 fvec4 filter sizeof cast namespace using atomic_uint coherent restrict readonly writeonly ' +
    'radians degrees sin cos tan asin acos atan pow exp log exp2 log2 sqrt inversesqrt abs sign floor trunc round ceil fract mod min max ' +
    'clamp mix step smoothstep length distance dot cross normalize reflect refract any all not equal transpose inverse determinant ' +
    'texture dFdx dFdy fwidth isnan isinf divide unit window k s surface finite displacement ' +
    'screenHere depthHere depthBehind depthUnder sceneBehind lensHere rayHere pointBehind nearestEdge unitChange tangentOf'
  ).split(' '),
);

/** Hands out names, each once. */
export class Names {
  private readonly taken = new Map<string, number>();

  /** @param taken names that are numbered on from; @param functions those of the program's kernels, which no variable may hide */
  constructor(
    taken: Iterable<string> = [],
    private readonly functions: ReadonlySet<string> = new Set(),
  ) {
    for (const name of taken) this.taken.set(name, 1);
  }

  /** @param words what the artist called it; @param fallback used when nothing of it survives */
  give(words: string, fallback: string): string {
    const parts = words
      .normalize('NFKD')
      .replace(/[^A-Za-z0-9]+/g, ' ')
      .trim()
      .split(' ')
      .filter(Boolean);
    const joined = parts.map((p, k) => (k === 0 ? p[0]!.toLowerCase() : p[0]!.toUpperCase()) + p.slice(1)).join('');
    let base = (/^[A-Za-z]/.test(joined) ? joined : fallback).slice(0, 48);
    if (RESERVED.has(base) || this.functions.has(base) || /^gl[A-Z_]/.test(base)) base += 'Value';
    const used = this.taken.get(base) ?? 0;
    this.taken.set(base, used + 1);
    if (used === 0) return base;
    return this.give(`${base}${used + 1}`, fallback);
  }
}
