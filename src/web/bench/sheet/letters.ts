/** Whether single letters are keys: kept in this browser, where it keeps anything. */
const SETTING = 'wispen.letters';

export function lettersAllowed(): boolean {
  try {
    return localStorage.getItem(SETTING) !== 'off';
  } catch {
    return true;
  }
}

export function allowLetters(on: boolean): void {
  try {
    localStorage.setItem(SETTING, on ? 'on' : 'off');
  } catch {
    // Not kept in a browser that keeps nothing; it holds for this page.
  }
}
