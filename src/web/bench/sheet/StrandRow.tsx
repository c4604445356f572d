/** One strand: its swatch, name, operation, inputs, range and marks. */
import { EyeOff, CircleAlert } from 'lucide-react';
import { memo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { renameStrand } from '../../../core/effect/edits.js';
import type { Strand } from '../../../core/effect/schema.js';
import { hullOf, isBounded, toldOf, type StrandReading } from '../../../core/analysis/reading.js';
import type { Rate } from '../../../core/ir/leaves.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { choose } from '../../../session/actions.js';
import { useBench, useBenchState } from '../../context.js';
import { Chips } from './Chips.js';
import { chipWidth, type Chip } from './chips.js';
import { fitRow } from './fitting.js';
import { nameWidth, operationWidth, rangeWidth, useFaces } from './textWidth.js';
import { ROW, shortNumber } from './layout.js';
import { KindBox, WhereMark } from './marks.js';
import { OpenedRow } from './OpenedRow.js';
import { PeekButton } from '../PeekButton.js';
import { Handle, RowMenuItems, type RowMenu } from './RowMenu.js';
import { Swatch } from './Swatch.js';
import { KindMends, OfferChip } from './Ways.js';

/** What rows ask of their sheet; the same for all of them, always. */
export interface RowActions {
  readonly menu: (id: string, menu: RowMenu) => void;
  readonly rename: (id: string, on: boolean) => void;
  readonly key: (event: KeyboardEvent<HTMLDivElement>, id: string) => void;
  readonly click: (event: MouseEvent, id: string) => void;
  readonly addUnder: (id: string) => void;
  readonly replace: (id: string) => void;
}

interface Props {
  readonly strand: Strand;
  readonly chips: readonly Chip[];
  readonly rank: number;
  readonly height: number;
  readonly opened: boolean;
  readonly chosen: boolean;
  /** Chosen with others. */
  readonly among: boolean;
  /** The one row that the Tab key reaches. */
  readonly reachable: boolean;
  readonly reading: StrandReading | undefined;
  /** Where it is computed. */
  readonly where: Rate;
  readonly problem: string | null;
  readonly renaming: boolean;
  readonly menu: RowMenu;
  readonly actions: RowActions;
}

/** What its value can be, in words; measured where nothing bounds it. */
function rangeWords(reading: StrandReading | undefined, problem: string | null): string {
  const range = reading && toldOf(reading);
  if (!range || problem) return '–';
  const words = range.low === range.high ? shortNumber(range.low) : `${shortNumber(range.low)} .. ${shortNumber(range.high)}`;
  return reading?.measured ? `≈ ${words}` : words;
}

/** Whether it is proved, or only measured, and what is proved then. */
function rangeTitle(reading: StrandReading | undefined): string {
  if (!reading?.measured) return 'the values it can have, proved';
  const proved = reading.range && isBounded(reading.range) ? hullOf(reading.range) : null;
  return `measured: values it has on a small prop, over the loop or 8 s. ${
    proved
      ? `Proved is no more than ${shortNumber(proved.low)} .. ${shortNumber(proved.high)}`
      : 'Nothing it reads bounds it; clamp it to be sure'
  }`;
}

const isControl = (target: EventTarget): boolean => (target as HTMLElement).closest('input, button') !== null;
/** Whether a click adds to what is chosen, or takes from it. */
const severally = (e: MouseEvent) => e.shiftKey || e.ctrlKey || e.metaKey;

export const StrandRow = memo(function StrandRow(props: Props) {
  const { strand, rank, height, opened, chosen, among, reachable, problem, menu, actions } = props;
  const { id } = strand;
  const row = useRef<HTMLDivElement>(null);
  const renders = useRef(0);
  renders.current++;
  const session = useBench();
  const [hover, setHover] = useState(false);
  const shown = hover || chosen;
  return (
    <div
      ref={row}
      role="row"
      aria-level={1}
      aria-expanded={opened}
      aria-selected={chosen || among}
      aria-label={`${strand.name}, ${operatorOf(strand.op).label}${problem ? `, error: ${problem}` : ''}`}
      tabIndex={reachable ? 0 : -1}
      aria-rowindex={rank + 1}
      data-strand={id}
      data-lit={chosen ? '' : undefined}
      data-renders={renders.current}
      className={`group relative outline-offset-[-2px] ${chosen || among || opened ? 'bg-raised' : 'hover:bg-[#201c2a]'} ${strand.bypassed ? 'opacity-60' : ''}`}
      style={{ height }}
      onFocus={(e) => {
        if (e.target === e.currentTarget) choose(session, id);
      }}
      onPointerEnter={() => setHover(true)}
      onPointerLeave={() => setHover(false)}
      onKeyDown={(e) => actions.key(e, id)}
      onDoubleClick={(e) => {
        if (e.currentTarget === e.target || (e.target as HTMLElement).dataset.part === 'name') actions.rename(id, true);
      }}
    >
      <div
        role="gridcell"
        className="absolute inset-x-0 top-0"
        style={{ height: ROW }}
        // The click chooses, and the focus follows: a press that did would change the row before the click is judged.
        onMouseDown={(e) => (severally(e) || !isControl(e.target)) && e.preventDefault()}
        onPointerDownCapture={(e) => severally(e) && e.stopPropagation()}
        onClick={(e) => {
          // What has been clicked in the row keeps the focus.
          if (!severally(e) && isControl(e.target)) choose(session, id);
          else actions.click(e, id);
        }}
      >
        <Line {...props} shown={shown} onDone={() => row.current?.focus()} />
      </div>
      <div role="gridcell" className="contents">
        {shown && <AddUnder strand={strand} reachable={chosen} top={height - 12} onAdd={() => actions.addUnder(id)} />}
        <Handle strand={strand} shown={shown} reachable={chosen} menu={menu} onMenu={(what) => actions.menu(id, what)}>
          <RowMenuItems
            menu={menu}
            strand={strand}
            rank={rank}
            onRename={(on) => actions.rename(id, on)}
            onReplace={() => actions.replace(id)}
          />
        </Handle>
      </div>
      {opened && (
        <div role="gridcell" className="absolute inset-x-0" style={{ top: ROW }}>
          <OpenedRow strand={strand} />
        </div>
      )}
      {problem && (
        <div
          role="gridcell"
          className="absolute right-3 left-[86px] flex min-h-[38px] flex-col justify-center border-l-2 border-fault pl-2.5 text-[12px] leading-4"
          style={{ bottom: 6 }}
        >
          <span className="text-fault">{problem}</span>
          <span className="text-muted">The stage keeps the last good picture.</span>
          <KindMends id={id} />
        </div>
      )}
    </div>
  );
});

/** Where ranges end; the room before one, and that of a mark before it: of a peek, of what is bypassed. */
const RANGE_END = 398;
const BEFORE_RANGE = 6;
const PEEKED = 26;
const BYPASSED = 18;

interface LineProps extends Props {
  readonly shown: boolean;
  /** Something in it has been typed: the row has the focus again. */
  readonly onDone: () => void;
}

/** The line of a strand, from its swatch to its marks. */
function Line({ strand, chips, chosen, among, reading, where, problem, renaming, actions, shown, onDone }: LineProps) {
  useFaces();
  const { id } = strand;
  const operator = operatorOf(strand.op);
  const peeked = useBenchState((s) => s.peek?.of === id);
  const range = rangeWords(reading, problem);
  const ranged = RANGE_END - rangeWidth(range) - BEFORE_RANGE;
  const marked = ranged - (peeked ? PEEKED : 0);
  const fitted = fitRow({
    name: nameWidth(strand.name),
    operation: operator.sign === undefined ? operationWidth(operator.label) : 0,
    sign: operator.sign !== undefined,
    twice: strand.name.toLowerCase().startsWith(operator.label.toLowerCase()),
    inputs: chips.map(chipWidth),
    right: marked - (strand.bypassed ? BYPASSED : 0),
  });
  return (
    <>
      <span className="absolute top-[2px] left-11">
        {problem ? (
          <span className="flex h-6 w-8 items-center justify-center rounded-sm border border-fault text-fault">
            <CircleAlert size={14} strokeWidth={1.5} aria-hidden />
          </span>
        ) : (
          <Swatch id={id} rate={reading?.rate} label={strand.name} />
        )}
      </span>
      <Name strand={strand} width={fitted.name} renaming={renaming} onRenamed={() => actions.rename(id, false)} />
      {operator.sign === undefined && (
        <span
          className="op absolute top-1 truncate"
          title={operator.summary}
          style={{ left: fitted.operation.left, width: fitted.operation.width }}
        >
          {operator.label}
        </span>
      )}
      <Chips chips={chips} strand={strand} fitted={fitted} live={chosen && !among} onDone={onDone} />
      <OfferChip id={id} />
      {(shown || peeked) && (
        <PeekButton
          of={id}
          name={strand.name}
          tabIndex={chosen ? 0 : -1}
          {...(peeked ? { left: marked } : {})}
          // On its swatch while it is offered, so that no input is covered; beside the range once it is on.
          className={`absolute top-[2px] z-10 flex h-6 items-center justify-center rounded-sm ${
            peeked
              ? `w-6 text-text ${chosen ? 'bg-raised' : 'bg-panel'}`
              : 'left-11 w-8 bg-base/70 text-text opacity-0 group-hover:opacity-100 focus-visible:opacity-100'
          }`}
        />
      )}
      {strand.bypassed && (
        <EyeOff
          size={14}
          strokeWidth={1.5}
          className="absolute top-[7px] text-muted"
          style={{ left: marked - BYPASSED + 2 }}
          aria-label="bypassed"
        />
      )}
      <span data-testid="range" className="num absolute top-[6px] right-[58px] text-muted" title={rangeTitle(reading)}>
        {reading?.measured && <span className="sr-only">measured </span>}
        {range}
      </span>
      <span className="absolute top-[7px] left-[402px]">{reading && <KindBox kind={reading.kind} />}</span>
      <span className="absolute top-[8px] left-[427px]">{reading && <WhereMark rate={where} />}</span>
    </>
  );
}

function Name({
  strand,
  width,
  renaming,
  onRenamed,
}: {
  strand: Strand;
  width: number;
  renaming: boolean;
  onRenamed: () => void;
}) {
  const session = useBench();
  if (!renaming)
    return (
      <span
        data-part="name"
        className="absolute top-1 left-[86px] truncate font-medium"
        style={{ width }}
        title={strand.note || strand.name}
      >
        {strand.name}
      </span>
    );
  return (
    <RenameField
      name={strand.name}
      onDone={(name) => {
        if (name !== null)
          session.documents.edit(`Rename ${strand.name}`, (draft) => renameStrand(draft, { id: strand.id, name }));
        onRenamed();
      }}
    />
  );
}

/** @param top of the button in the row, in pixels */
function AddUnder({ strand, reachable, top, onAdd }: { strand: Strand; reachable: boolean; top: number; onAdd: () => void }) {
  return (
    <button
      className="absolute left-[20px] z-10 flex h-6 w-6 items-center justify-center opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
      style={{ top }}
      tabIndex={reachable ? 0 : -1}
      aria-label={`Add a strand under ${strand.name}`}
      title="Add a strand here  /"
      onClick={onAdd}
    >
      <span className="flex h-4 w-4 items-center justify-center rounded-full border border-edge bg-panel text-[12px] leading-none text-muted">
        +
      </span>
    </button>
  );
}

function RenameField({ name, onDone }: { name: string; onDone: (name: string | null) => void }) {
  const [typed, setTyped] = useState(name);
  return (
    <input
      autoFocus
      aria-label={`New name of ${name}`}
      className="field absolute top-[3px] left-[82px] z-10 h-[22px] w-[150px] px-1 font-medium"
      value={typed}
      maxLength={80}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={() => onDone(typed)}
      onClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') onDone(typed);
        if (e.key === 'Escape') onDone(null);
      }}
    />
  );
}
