/** A row's inputs as it reads: strands by name, numbers, colours, dials with an open ring. */
import { own } from '../../../core/base/wholesome.js';
import { insteadOf } from '../../../core/effect/edits.js';
import { shownFormula } from '../../../core/effect/formulaText.js';
import { isColour, isImage, isLink, isWritten, type Effect, type Input, type Strand } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { literalOf, type Showing } from '../../../session/actions.js';
import { showNumber } from '../../ui/numbers.js';
import { cssColour } from '../../ui/colour.js';
import { shownUnit } from '../../ui/NumberField.js';

export interface Chip {
  readonly key: string;
  readonly text: string;
  readonly title: string;
  readonly look: 'strand' | 'number' | 'colour' | 'word';
  readonly dial: boolean;
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
  const record = operatorOf(strand.op).inputs[name]!;
  const title = `${name}: ${record.note}`;
  if (isLink(input)) {
    const part = input.part ? `.${input.part}` : '';
    const port = input.port ? ` ${input.port}` : '';
    return {
      key: name,
      text: `${names.get(input.from) ?? input.from}${port}${part}`,
      title,
      look: 'strand',
      dial: false,
      from: input.from,
    };
  }
  const dial = effect.dials.some((d) => d.strand === strand.id && d.input === name);
  const value = literalOf(effect, showing, strand.id, name);
  if (value === undefined || (!input && !dial && !always)) return null;
  if (isColour(value)) return { key: name, text: '', title, look: 'colour', dial, colour: cssColour(value.rgb) };
  const unit = record.unit === 'x' ? '' : record.unit ? ` ${shownUnit(record.unit)}` : '';
  const times = record.unit === 'x' ? '×' : '';
  if (typeof value === 'number') return { key: name, text: `${times}${showNumber(value)}${unit}`, title, look: 'number', dial };
  if (Array.isArray(value)) return { key: name, text: value.map(showNumber).join(' '), title, look: 'number', dial };
  return null;
}

let ruler: CanvasRenderingContext2D | null = null;
const measured = new Map<string, number>();

/** Pixels of a text in a chip's face. */
function textWidth(text: string, face: string): number {
  const key = `${face}|${text}`;
  const found = measured.get(key);
  if (found !== undefined) return found;
  ruler ??= document.createElement('canvas').getContext('2d');
  if (!ruler) return text.length * 6;
  ruler.font = face;
  const width = ruler.measureText(text).width;
  // Until the face has been loaded another one is measured: such widths are not kept.
  if (document.fonts.check(face)) measured.set(key, width);
  return width;
}

const SANS = "12px 'Instrument Sans Variable'";
const MONO = "350 10.5px 'Martian Mono Variable'";

function widthOf(c: Chip): number {
  const ring = c.dial ? 11 : 0;
  if (c.look === 'colour') return 20 + ring;
  if (c.look === 'number') return 12 + ring + textWidth(c.text, MONO) * 0.8;
  return (c.look === 'strand' ? 14 : 0) + textWidth(c.text, SANS) * 0.97;
}
/** From the inputs' column to the ranges at most, and where those end. */
const ROOM = 126;
const RANGE_END = 398;

/** What a row prints of its inputs, options and literals. */
export function chipsOf(effect: Effect, showing: Showing, names: ReadonlyMap<string, string>, strand: Strand): Chip[] {
  const operator = operatorOf(strand.op);
  const reads = operator.sign !== undefined;
  const chips = Object.keys(operator.inputs).flatMap((name) =>
    insteadOf(strand, name) ? [] : (chipOf(effect, showing, names, strand, name, strand.inputs?.[name], reads) ?? []),
  );
  const words: Chip[] = Object.entries(operator.options).flatMap(([name, o]) => {
    const value = strand.options?.[name];
    return value !== undefined && value !== o.default
      ? [{ key: name, text: value, title: `${name}: ${o.note}`, look: 'word' as const, dial: false }]
      : [];
  });
  for (const [name, { form }] of Object.entries(operator.literals)) {
    const given = strand.inputs?.[name];
    const value = given && !isLink(given) ? given.value : undefined;
    const text = operator.literals.formula
      ? shownFormula(effect, strand)
      : isWritten(value)
        ? form === 'shared'
          ? (effect.shared.find((d) => d.id === value.text)?.name ?? value.text)
          : value.text
        : isImage(value)
          ? (own(effect.assets, value.asset)?.name ?? value.asset)
          : null;
    if (text !== null) words.push({ key: name, text, title: text, look: 'word', dial: false });
  }
  return [...words, ...chips];
}

export function Chips({
  chips: all,
  op,
  range,
}: {
  chips: readonly Chip[];
  op: string;
  /** What stands at their right. */
  range: string;
}) {
  const operator = operatorOf(op);
  const reads = operator.sign !== undefined;
  // Linked inputs first where there is not room for all.
  const ordered = reads ? all : [...all.filter((c) => c.look === 'word'), ...all.filter((c) => c.look !== 'word')];
  const left = reads ? 158 : 222;
  const room = Math.min(reads ? ROOM + 64 : ROOM, RANGE_END - left - 8 - textWidth(range, MONO) * 0.84);
  let used = 0;
  let shown = 0;
  for (const c of ordered) {
    const next = used + widthOf(c) + (shown > 0 ? (reads ? 16 : 5) : 0);
    if (next > room - (shown < ordered.length - 1 ? 18 : 0) && shown > 0) break;
    used = next;
    shown++;
  }
  const hidden = ordered.slice(shown);
  return (
    <span className={`absolute top-1 flex items-center gap-[5px] overflow-hidden`} style={{ left, maxWidth: room + 4 }}>
      {ordered.slice(0, shown).map((c, k) => (
        <span key={c.key} className="contents">
          {reads && k > 0 && <span className="text-[12px] text-muted">{operator.sign}</span>}
          <ChipView chip={c} />
        </span>
      ))}
      {hidden.length > 0 && (
        <span className="text-[12px] text-muted" title={hidden.map((c) => `${c.key} ${c.text}`).join(', ')}>
          +{hidden.length}
        </span>
      )}
    </span>
  );
}

function ChipView({ chip }: { chip: Chip }) {
  const ring = chip.dial && <span className="mr-1 h-[7px] w-[7px] shrink-0 rounded-full border border-muted" aria-label="dial" />;
  if (chip.look === 'colour')
    return (
      <span className="flex items-center" title={chip.title}>
        {ring}
        <span className="h-5 w-5 rounded-sm border border-line" style={{ background: chip.colour }} />
      </span>
    );
  if (chip.look === 'word')
    return (
      <span className="min-w-0 truncate text-[12px] text-muted" title={chip.title}>
        {chip.text}
      </span>
    );
  return (
    <span
      className={`chip ${chip.look === 'strand' ? 'chip-strand min-w-0 shrink overflow-hidden' : 'chip-number shrink-0'}`}
      title={chip.title}
      data-chip={chip.from}
    >
      {ring}
      <span className="truncate">{chip.text}</span>
    </span>
  );
}
