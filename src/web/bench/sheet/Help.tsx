/** What an operation does, beside the row that has it: from its record, with its picture and an example to put on the sheet. */
import { Popover } from 'radix-ui';
import { copyRun, writeRun } from '../../../core/effect/runs.js';
import { emptyEffect, type Effect, type Strand } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { EXAMPLE_TRIGGERS, exampleOf } from '../../../core/operators/examples.js';
import type { InputRecord, OperatorRecord } from '../../../core/operators/record.js';
import { paste } from '../../../session/actions.js';
import { ownKeys } from '../../ui/keys.js';
import { showNumber } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';
import type { FocusRow } from './focus.js';
import type { Layout } from './layout.js';
import { OperatorPicture } from './OperatorPicture.js';
import { PopoverContent } from '../../ui/PopoverContent.js';

/** The example as it goes onto a clipboard or a sheet. */
export function exampleText(op: string): string {
  const strands = structuredClone(exampleOf(op)) as unknown as Strand[];
  const effect: Effect = {
    ...emptyEffect('0190a000-0000-7000-8000-000000000000', 'Example'),
    strands,
    triggers: EXAMPLE_TRIGGERS,
  };
  return writeRun(
    copyRun(
      effect,
      strands.map((s) => s.id),
    ),
  );
}

/** Beside the row that it is asked for at. */
export function Helped({ layout, focusRow }: { layout: Layout; focusRow: FocusRow }) {
  const session = useBench();
  const id = useBenchState((s) => s.help);
  const item = layout.items.find((i) => i.type === 'strand' && i.strand.id === id);
  if (item?.type !== 'strand') return null;
  const close = () => {
    session.store.setState({ help: null });
    focusRow(item.strand.id);
  };
  return <Help strand={item.strand} y={item.y} onClose={close} />;
}

interface HelpProps {
  readonly strand: Strand;
  /** Where the row stands, from the sheet's top. */
  readonly y: number;
  readonly onClose: () => void;
}

function Help({ strand, y, onClose }: HelpProps) {
  const operator = operatorOf(strand.op);
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor asChild>
        <span className="pointer-events-none absolute right-0 h-7 w-px" style={{ top: y }} />
      </Popover.Anchor>
      <PopoverContent
        aria-label={`About ${operator.label}`}
        className="scroll max-h-[min(560px,var(--radix-popover-content-available-height))] w-[360px] p-4"
        side="right"
        align="start"
        sideOffset={8}
        collisionPadding={12}
        onKeyDown={ownKeys}
        onCloseAutoFocus={(e) => e.preventDefault()}
      >
        <About operator={operator} onClose={onClose} />
      </PopoverContent>
    </Popover.Root>
  );
}

function About({ operator, onClose }: { operator: OperatorRecord; onClose: () => void }) {
  const session = useBench();
  const following = useBenchState((s) => s.following);
  const { id, label, family, summary, inputs, options, outputs } = operator;
  const example = exampleOf(id);
  const copy = () =>
    navigator.clipboard.writeText(exampleText(id)).then(
      () => session.store.setState({ notice: `The example of ${label} is on the clipboard; Ctrl V puts it on a sheet.` }),
      () => session.store.setState({ notice: 'This browser does not let the page use the clipboard.' }),
    );
  return (
    <>
      <div className="flex gap-3">
        <OperatorPicture op={id} className="h-[84px] w-[120px]" />
        <div className="min-w-0">
          <h3 className="head text-[14px] leading-5">{label}</h3>
          <p className="text-[12px] text-muted">{family}</p>
          <p className="mt-1 text-[12px] leading-4">{summary}</p>
        </div>
      </div>
      <dl className="mt-3 grid grid-cols-[84px_1fr] gap-x-3 gap-y-1.5 text-[12px] leading-4">
        {Object.entries(inputs).map(([name, record]) => (
          <Told key={name} name={name} note={record.note} more={usual(record)} />
        ))}
        {Object.entries(options).map(([name, { note, values, default: first }]) => (
          <Told key={name} name={name} note={note} more={`${values.join(', ')}; ${first} at first`} />
        ))}
        {outputs.length > 1 &&
          outputs.slice(1).map((o) => <Told key={o.id} name={`.${o.id}`} note={o.note} more="beside its value" />)}
      </dl>
      <div className="mt-3 flex items-center gap-2 border-t border-line pt-3">
        <button
          className="button"
          disabled={following}
          onClick={() => {
            onClose();
            const first = paste(session, exampleText(id));
            if (first) session.store.setState({ asked: 'show' });
          }}
        >
          {example.length === 1 ? 'Put one on the sheet' : `Put its example on the sheet, ${example.length} strands`}
        </button>
        <button className="plain px-1.5" onClick={() => void copy()}>
          Copy it
        </button>
      </div>
    </>
  );
}

/** What an input is when nothing is said, and between what it is usually turned. */
function usual({ default: first, soft, unit, optional, literal }: InputRecord): string {
  const of = unit ? ` ${unit}` : '';
  if (typeof first === 'number')
    return optional ? 'nothing at first' : `${showNumber(first)}${of} at first, ${soft.map(showNumber).join(' to ')}`;
  if (Array.isArray(first)) return literal === 'colour' ? 'a colour' : `${first.map(showNumber).join(', ')}${of} at first`;
  return 'the place itself at first';
}

function Told({ name, note, more }: { name: string; note: string; more: string }) {
  return (
    <>
      <dt className="font-medium">{name}</dt>
      <dd>
        {note} <span className="text-muted">· {more}</span>
      </dd>
    </>
  );
}
