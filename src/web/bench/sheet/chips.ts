/** What a row prints of its strand: other strands by name, numbers, colours, dials with an open ring. */
import { own } from '../../../core/base/wholesome.js';
import { insteadOf } from '../../../core/effect/edits.js';
import { shownFormula } from '../../../core/effect/formulaText.js';
import {
  isColour,
  isImage,
  isLink,
  isWritten,
  type Effect,
  type Input,
  type Strand,
  type Value,
} from '../../../core/effect/schema.js';
import { triggerOf } from '../../../core/effect/triggers.js';
import { portLabel, recordOf } from '../../../core/effect/recordOf.js';
import { inputLabel, mainInput, type InputRecord } from '../../../core/operators/record.js';
import { literalOf, type Showing } from '../../../session/showing.js';
import { showNumber } from '../../ui/numbers.js';
import { cssColour } from '../../ui/colour.js';
import { shownUnit } from '../../ui/NumberField.js';
import { labelWidth, numberWidth, wordWidth } from './textWidth.js';

export interface Chip {
  readonly key: string;
  readonly text: string;
  readonly title: string;
  readonly look: 'strand' | 'number' | 'colour' | 'word';
  /** What it is, where that is not plain: the input's name. */
  readonly label: string;
  readonly dial: boolean;
  /** A cue holds that dial. */
  readonly cued?: boolean;
  /** It is what the input rests on anyway. */
  readonly resting?: boolean;
  readonly colour?: string;
  /** The strand it names. */
  readonly from?: string;
}

function chipOf(
  effect: Effect,
  showing: Showing,
  names: ReadonlyMap<string, string>,
  strand: Strand,
  name: string,
  input: Input | undefined,
  always: boolean,
): Chip | null {
  const operator = recordOf(effect, strand);
  const record = operator.inputs[name]!;
  const title = `${record.label ?? name}: ${record.note}`;
  // What it works on, and a letter, say nothing more.
  const label = always || name.length === 1 || name === mainInput(operator) ? '' : (record.label ?? inputLabel(name));
  if (isLink(input)) {
    const part = input.part ? `.${input.part}` : '';
    const port = input.port ? ` ${portLabel(effect, input)}` : '';
    return {
      key: name,
      label,
      text: `${names.get(input.from) ?? input.from}${port}${part}`,
      title,
      look: 'strand',
      dial: false,
      from: input.from,
    };
  }
  const turned = effect.dials.find((d) => d.strand === strand.id && d.input === name);
  const dial = turned !== undefined;
  const cued = dial && effect.cues.some((c) => c.dial === turned.id);
  const value = literalOf(effect, showing, strand.id, name);
  if (value === undefined || (!input && !dial && !always)) return null;
  if (isColour(value)) return { key: name, label, text: '', title, look: 'colour', dial, cued, colour: cssColour(value.rgb) };
  const unit = record.unit === 'x' ? '' : record.unit ? ` ${shownUnit(record.unit)}` : '';
  const times = record.unit === 'x' ? '×' : '';
  const number = { key: name, label, title, look: 'number' as const, dial, cued, resting: !always && isDefault(value, record) };
  if (typeof value === 'number') return { ...number, text: `${times}${showNumber(value)}${unit}` };
  if (Array.isArray(value)) return { ...number, text: value.map(showNumber).join(' ') };
  return null;
}

/** What a row prints of its inputs, options and literals. */
export function chipsOf(effect: Effect, showing: Showing, names: ReadonlyMap<string, string>, strand: Strand): Chip[] {
  const operator = recordOf(effect, strand);
  const reads = operator.sign !== undefined;
  // A formula's text names what it reads.
  const told = operator.literals.formula ? [] : Object.keys(operator.inputs);
  const chips = told.flatMap((name) =>
    insteadOf(strand, name) ? [] : (chipOf(effect, showing, names, strand, name, strand.inputs?.[name], reads) ?? []),
  );
  const words: Chip[] = Object.entries(operator.options).flatMap(([name, o]) => {
    const value = strand.options?.[name];
    return value !== undefined && value !== o.default
      ? [{ key: name, text: value, title: `${name}: ${o.note}`, look: 'word' as const, label: '', dial: false }]
      : [];
  });
  for (const [name, { form }] of Object.entries(operator.literals)) {
    // A use is told by its inputs.
    if (form === 'motif') continue;
    const given = strand.inputs?.[name];
    const value = given && !isLink(given) ? given.value : undefined;
    const text = operator.literals.formula
      ? shownFormula(effect, strand)
      : isWritten(value)
        ? form === 'shared'
          ? (effect.shared.find((d) => d.id === value.text)?.name ?? value.text)
          : form === 'trigger'
            ? (triggerOf(effect, value.text)?.name ?? value.text)
            : value.text
        : isImage(value)
          ? (own(effect.assets, value.asset)?.name ?? value.asset)
          : null;
    if (text !== null) words.push({ key: name, text, title: text, look: 'word', label: '', dial: false });
  }
  // What is read first, then what was turned: what rests on its default tells least.
  const rank = (c: Chip) => (c.look === 'strand' ? 0 : c.resting ? 2 : 1);
  return reads ? [...words, ...chips] : [...words, ...chips.sort((a, b) => rank(a) - rank(b))];
}

const isDefault = (value: Value, { default: rest }: InputRecord): boolean =>
  typeof rest === 'number' ? value === rest : JSON.stringify(value) === JSON.stringify(rest);

/** Pixels that a chip takes, without its label and with it. */
export function chipWidth(c: Chip): { readonly bare: number; readonly labelled: number } {
  const ring = c.dial ? 11 : 0;
  const bare =
    c.look === 'colour'
      ? 20 + ring
      : c.look === 'number'
        ? 12 + ring + numberWidth(c.text)
        : (c.look === 'strand' ? 14 : 0) + wordWidth(c.text);
  return { bare, labelled: bare + (c.label === '' ? 0 : labelWidth(c.label) + 4) };
}
