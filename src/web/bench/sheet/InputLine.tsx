/** One input of a strand: its name, its value with a slider, or what it reads; and what links it or makes a dial of it. */
import { insteadOf } from '../../../core/effect/edits.js';
import { isColour, isLink, type Effect, type Strand, type Value } from '../../../core/effect/schema.js';
import { portLabel } from '../../../core/effect/recordOf.js';
import { restsOn, type InputRecord } from '../../../core/operators/record.js';
import { setLiteral } from '../../../session/actions.js';
import { dialAt, literalOf } from '../../../session/showing.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { Named } from '../../ui/Named.js';
import { NumberField, shownUnit } from '../../ui/NumberField.js';
import { Slider } from '../../ui/Slider.js';
import { useBench, useShowing } from '../../context.js';
import { KeyMark, useCue, useCueValue } from '../KeyMark.js';
import { inputRows } from './layout.js';
import { LinkMenu } from './LinkMenu.js';

/** What holds lines of inputs: their columns stand under one another, as wide as the longest name asks. */
export const INPUT_LINES =
  'grid w-[252px] auto-rows-[25px] grid-cols-[minmax(52px,auto)_minmax(30px,1fr)_76px_16px_24px] gap-x-1.5';

interface LineProps {
  readonly effect: Effect;
  readonly strand: Strand;
  readonly name: string;
  readonly record: InputRecord;
  /** Gives it another name, where it may have one. */
  readonly onRename?: (name: string) => void;
}

export function InputLine(props: LineProps) {
  const { effect, strand, name, record } = props;
  const input = strand.inputs?.[name];
  const dial = dialAt(effect, strand.id, name);
  const instead = insteadOf(strand, name);
  const showing = useShowing();
  return (
    <div
      className="col-span-5 grid grid-cols-subgrid items-center"
      style={{ gridRow: `span ${inputRows(strand, name, record)}` }}
    >
      <span
        className="flex items-center gap-1 text-[12px] whitespace-nowrap text-muted"
        title={`${record.label ?? name}: ${record.note}${record.unit ? `, in ${shownUnit(record.unit)}` : ''}`}
      >
        {dial && <span className="h-[7px] w-[7px] shrink-0 rounded-full border border-muted" role="img" aria-label="a dial" />}
        {props.onRename ? (
          <Named label={`Name of ${record.label ?? name}`} name={record.label ?? name} onName={props.onRename} />
        ) : (
          (record.label ?? name)
        )}
      </span>
      {instead ? (
        <span className="col-span-2 text-[12px] text-muted">{instead} takes its place</span>
      ) : isLink(input) ? (
        <span className="col-span-2 flex items-center">
          <span className="chip chip-strand">
            {effect.strands.find((s) => s.id === input.from)?.name ?? input.from}
            {input.port ? ` ${portLabel(effect, input)}` : ''}
            {input.part ? `.${input.part}` : ''}
          </span>
        </span>
      ) : record.optional && !input ? (
        <span className="col-span-2 text-[12px] text-muted">left out</span>
      ) : (
        <LiteralControl {...props} soft={dial?.soft ?? record.soft} />
      )}
      {!instead && !isLink(input) && !(record.optional && !input) && keyed(literalOf(effect, showing, strand.id, name)) ? (
        <KeyMark strand={strand.id} input={name} label={`${strand.name} ${record.label ?? name}`} />
      ) : (
        <span />
      )}
      <LinkMenu effect={effect} strand={strand.id} name={name} record={record} input={input} isDial={dial !== undefined} />
    </div>
  );
}

/** Whether a value can be keyed: a number, several, a colour, a switch. */
const keyed = (value: Value | undefined): boolean =>
  typeof value === 'number' || typeof value === 'boolean' || Array.isArray(value) || isColour(value);

/** A place of the surface by its words: "world position". */
const inWords = (place: string): string => place.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** What edits an input's own value. @param soft the range that is offered */
function LiteralControl({ effect, strand, name, record, soft: [low, high] }: LineProps & { soft: readonly [number, number] }) {
  const session = useBench();
  const own = literalOf(effect, useShowing(), strand.id, name);
  const value = useCueValue(useCue(strand.id, name)) ?? own;
  const set = (v: Parameters<typeof setLiteral>[3]) => setLiteral(session, strand.id, name, v);
  const done = () => session.documents.endGesture();
  const label = `${strand.name} ${record.label ?? name}`;
  if (isColour(value))
    return (
      <span className="col-span-2 flex items-center gap-2">
        <ColourButton label={strand.name} colour={value} onChange={set} onDone={done} />
        <NumberField
          label={`${label} intensity`}
          value={value.intensity}
          unit={value.unit === 'stops' ? 'stops' : 'x'}
          step={0.1}
          width={76}
          onChange={(v) => set({ ...value, intensity: v })}
          onDone={done}
        />
      </span>
    );
  if (Array.isArray(value))
    return (
      <span className={`col-span-2 ${value.length > 3 ? 'grid grid-cols-2 gap-x-1 gap-y-0.5' : 'flex items-center gap-1'}`}>
        {value.map((v, k) => (
          <NumberField
            key={k}
            label={`${label} ${'xyzw'[k]}`}
            value={v}
            step={0.01}
            width={value.length === 3 ? 38 : 46}
            onChange={(n) => set(value.map((old, j) => (j === k ? n : old)))}
            onDone={done}
          />
        ))}
      </span>
    );
  if (typeof value !== 'number')
    return (
      <span className="col-span-2 text-[12px] text-muted">
        {restsOn(record) === undefined ? 'default' : inWords(restsOn(record)!)}
      </span>
    );
  return (
    <>
      <Slider
        label={label}
        value={value}
        low={low}
        high={high}
        {...(typeof record.default === 'number' ? { mark: record.default } : {})}
        onChange={set}
        onDone={done}
      />
      <NumberField
        label={`${label} value`}
        value={value}
        unit={record.unit ?? ''}
        step={Math.max(0.001, (high - low) / 100)}
        width={76}
        onChange={set}
        onDone={done}
      />
    </>
  );
}
