/** The chips of a row: what they print, and, on the chosen row, what changes it in its place. */
import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import { own } from '../../../core/base/wholesome.js';
import { isColour, isLink, type Strand, type Value } from '../../../core/effect/schema.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { setLiteral, setOptionTo } from '../../../session/actions.js';
import { dialAt, literalOf } from '../../../session/showing.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { NumberField } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState, useShowing } from '../../context.js';
import { chipWidth, type Chip } from './chips.js';
import { INPUT_LINES, InputLine } from './InputLine.js';
import type { Fitted } from './fitting.js';
import { LinkMenu } from './LinkMenu.js';
import { ownKeys } from '../../ui/keys.js';
import { PopoverContent } from '../../ui/PopoverContent.js';

interface Props {
  readonly chips: readonly Chip[];
  readonly strand: Strand;
  readonly fitted: Fitted;
  /** Whether they can be changed in their place: on the chosen row, so that a press elsewhere only chooses. */
  readonly live: boolean;
  /** Where the focus goes when something has been typed. */
  readonly onDone: () => void;
}

export function Chips({ chips, strand, fitted, live, onDone }: Props) {
  const { sign } = operatorOf(strand.op);
  const hidden = chips.slice(fitted.shown);
  return (
    <span
      className="absolute top-0 flex h-7 items-center gap-[5px] overflow-hidden"
      style={{ left: fitted.inputs, maxWidth: fitted.room }}
    >
      {chips.slice(0, fitted.shown).map((c, k) => (
        <span key={c.key} className="contents">
          {sign !== undefined && k > 0 && <span className="text-[12px] text-muted">{sign}</span>}
          <span className="flex min-w-0 items-center gap-1">
            {fitted.labelled[k] && c.label !== '' && <span className="shrink-0 text-[11px] text-muted">{c.label}</span>}
            {live ? <LiveChip chip={c} strand={strand} onDone={onDone} /> : <StillChip chip={c} />}
          </span>
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

/** A dial, by its ring; one that a cue holds, by a bead on a line. */
const Ring = ({ cued = false }: { cued?: boolean | undefined }) => (
  <span className="relative mr-1 flex h-[7px] w-[7px] shrink-0" role="img" aria-label={cued ? 'dial, held by a cue' : 'dial'}>
    {cued && <span className="absolute top-[3px] -right-0.5 -left-0.5 h-px bg-muted" />}
    <span className={`relative h-full w-full rounded-full border ${cued ? 'border-ink bg-base' : 'border-muted'}`} />
  </span>
);

function StillChip({ chip }: { chip: Chip }) {
  const ring = chip.dial && <Ring cued={chip.cued} />;
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

/** A number is typed or dragged, a colour and a link are chosen, where they stand. */
function LiveChip({ chip, strand, onDone }: Pick<Props, 'strand' | 'onDone'> & { chip: Chip }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const value = literalOf(effect, useShowing(), strand.id, chip.key);
  const input = strand.inputs?.[chip.key];
  const record = recordOf(effect, strand).inputs[chip.key];
  const label = `${strand.name} ${record?.label ?? chip.key}`;
  const option = own(operatorOf(strand.op).options, chip.key);
  if (option)
    return (
      <Select
        bare
        label={label}
        className="relative rounded-sm text-[12px] text-muted after:absolute after:-inset-1 hover:text-text"
        value={chip.text}
        choices={option.values.map((v) => ({ id: v, name: v }))}
        onChoose={(value) => setOptionTo(session, strand.id, chip.key, value)}
      />
    );
  if (!record || chip.look === 'word') return <StillChip chip={chip} />;
  const set = (v: Value) => setLiteral(session, strand.id, chip.key, v);
  const done = () => session.documents.endGesture();
  const dial = dialAt(effect, strand.id, chip.key);
  const line = { effect, strand, name: chip.key, record };
  if (isLink(input))
    return (
      <LinkMenu effect={effect} strand={strand.id} name={chip.key} record={record} input={input} isDial={false}>
        <ChipButton chip={chip} label={`${label} reads ${chip.text}`} />
      </LinkMenu>
    );
  if (isColour(value))
    return (
      <span className="flex items-center">
        {dial && <Ring cued={chip.cued} />}
        <ColourButton label={label} colour={value} onChange={set} onDone={done} />
      </span>
    );
  if (typeof value !== 'number')
    return (
      <Popover.Root>
        <Popover.Trigger asChild>
          <ChipButton chip={chip} label={`${label}: ${chip.text}`} />
        </Popover.Trigger>
        <PopoverContent aria-label={label} className="p-3" sideOffset={4} onKeyDown={ownKeys}>
          <div className={INPUT_LINES}>
            <InputLine {...line} />
          </div>
        </PopoverContent>
      </Popover.Root>
    );
  const [low, high] = dial?.soft ?? record.soft;
  return (
    <span className="flex items-center">
      {dial && <Ring cued={chip.cued} />}
      <NumberField
        label={label}
        look="chip"
        value={value}
        unit={record.unit ?? ''}
        step={Math.max(0.001, (high - low) / 100)}
        width={chipWidth({ ...chip, dial: false }).bare + (record.unit ? 6 : 0)}

        onChange={set}
        onDone={done}
        onEnter={onDone}
      />
    </span>
  );
}

interface ChipButtonProps {
  readonly chip: Chip;
  readonly label: string;
  readonly children?: ReactNode;
}

function ChipButton({ chip, label, ...rest }: ChipButtonProps) {
  return (
    <button
      {...rest}
      className={`chip relative after:absolute after:-inset-y-[3px] after:inset-x-0 hover:border-edge ${
        chip.look === 'strand' ? 'chip-strand min-w-0 shrink' : 'chip-number shrink-0'
      }`}
      title={chip.title}
      aria-label={label}

      data-chip={chip.from}
    >
      <span className="truncate">{chip.text}</span>
    </button>
  );
}
