/** Small things that this browser keeps for itself. One that keeps nothing does without: nothing here is anybody's work. */

export function keep(name: string, value: string): void {
  try {
    localStorage.setItem(name, value);
  } catch {
    // It holds for this page at most.
  }
}

/** @returns null where nothing is kept */
export function kept(name: string): string | null {
  try {
    return localStorage.getItem(name);
  } catch {
    return null;
  }
}
