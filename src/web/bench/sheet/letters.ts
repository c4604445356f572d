/** Whether single letters are keys: kept in this browser, where it keeps anything. */
import { keep, kept } from '../../../session/kept.js';

const SETTING = 'wispen.letters';

export const lettersAllowed = (): boolean => kept(SETTING) !== 'off';
export const allowLetters = (on: boolean): void => keep(SETTING, on ? 'on' : 'off');
