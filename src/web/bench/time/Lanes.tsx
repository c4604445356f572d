/** The cues and triggers under the ruler: a lane each, four in sight at a time, and the open one's curve under it. */
import { ChevronDown, ChevronRight, ChevronLeft, CirclePlus } from 'lucide-react';
import { useEffect, useMemo, useRef } from 'react';
import { cueAt } from '../../../core/effect/cues.js';
import { dialLabel, strandOf } from '../../../core/effect/edits.js';
import { isColour, isWritten, type Cue, type Dial, type Value } from '../../../core/effect/schema.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { inputRecord } from '../../../core/operators/record.js';
import { addKey, lanesOf, openCurve, stepToKey } from '../../../session/cueing.js';
import { shownUnit } from '../../ui/NumberField.js';
import { showReading } from '../../ui/numbers.js';
import { useBench, useBenchState } from '../../context.js';
import { COLUMNS, LEFT, levelIn, levelOf, pathOf, scaleOf, valueOf } from './axis.js';
import { CurveView } from './CurveView.js';
import { Easing } from './Easing.js';
import { Keys } from './Keys.js';
import { TriggerLane } from './Triggers.js';

const LANE = 28;
/** Lanes that are seen at a time; the others are scrolled to. */
const SEEN = 4;
const CURVE = 88;

export function Lanes({ span, width }: { span: number; width: number }) {
  const effect = useBenchState((s) => s.effect);
  const open = useBenchState((s) => (s.lane?.curve ? s.lane.dial : null));
  const lanes = lanesOf(effect);
  const { triggers } = effect;
  const count = lanes.length + triggers.length;
  if (count === 0) return null;
  const curved = lanes.some(({ dial }) => dial.id === open);
  return (
    <div className="relative" style={{ maxHeight: Math.min(count, SEEN) * LANE + (curved ? CURVE : 0) }}>
      <div className="scroll h-full max-h-[inherit] overflow-x-hidden overflow-y-auto" tabIndex={-1}>
        <ul aria-label="Cues and triggers">
          {lanes.map(({ dial, cue }) => (
            <Lane key={dial.id} dial={dial} cue={cue} span={span} width={width} open={dial.id === open} />
          ))}
          {triggers.map((trigger) => (
            <TriggerLane key={trigger.id} trigger={trigger} span={span} width={width} />
          ))}
        </ul>
      </div>
      <PlayheadLine span={span} width={width} />
    </div>
  );
}

/** The playhead over the lanes. */
function PlayheadLine({ span, width }: { span: number; width: number }) {
  const { clock } = useBench();
  const line = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (time: number) =>
      void (line.current!.style.transform = `translateX(${LEFT + ((time > span ? time % span : time) / span) * width}px)`);
    show(clock.time);
    return clock.onTick(show);
  }, [clock, span, width]);
  return <span ref={line} className="pointer-events-none absolute inset-y-0 left-0 w-[1.5px] bg-wisp" />;
}

interface LaneProps {
  readonly dial: Dial;
  readonly cue: Cue;
  readonly span: number;
  readonly width: number;
  readonly open: boolean;
}

function Lane({ dial, cue, span, width, open }: LaneProps) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const label = dialLabel(effect, dial);
  const record = inputRecord(recordOf(effect, strandOf(effect, dial.strand)), dial.input);
  const Fold = open ? ChevronDown : ChevronRight;
  const scale = useMemo(() => scaleOf(cue, span), [cue, span]);
  const path = useMemo(() => pathOf(cue, scale, span, width, 6, 15), [cue, scale, span, width]);
  // All of an opened curve is seen, also of one that was scrolled away.
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (open) row.current!.scrollIntoView({ block: 'nearest' });
  }, [open]);
  return (
    <li ref={row} className="border-t border-line" data-lane={dial.id}>
      <div className={`${COLUMNS} h-[27px]`}>
        <span className="flex min-w-0 items-center gap-1 pr-3 pl-2">
          <button
            className="plain h-6 w-6 shrink-0"
            aria-expanded={open}
            aria-label={`Curve of ${label}`}
            onClick={() => openCurve(session, dial.id, !open)}
          >
            <Fold size={13} strokeWidth={1.5} aria-hidden />
          </button>
          <span className="min-w-0 grow truncate font-medium" title={label}>
            {label}
          </span>
          <Now cue={cue} unit={dial.unit ?? record?.unit ?? ''} />
        </span>
        <div className="relative h-[27px] bg-base">
          <svg className="absolute inset-0 h-full w-full" aria-hidden>
            {open ? (
              <line x1={0} x2={width} y1={13.5} y2={13.5} stroke="var(--color-edge)" />
            ) : (
              <path d={path} fill="none" stroke="var(--color-muted)" />
            )}
          </svg>
          <Keys
            {...{ dial, cue, span, width, label }}
            yOf={(key) => (open ? 13.5 : 6 + (1 - (levelIn(cue, key.value) - scale.low) / (scale.high - scale.low)) * 15)}
          />
        </div>
        <span className="flex items-center justify-end gap-0 pr-2 pl-1">
          <Goes dial={dial} cue={cue} label={label} />
          <button
            className="plain h-6 w-6"
            aria-label={`Previous key of ${label}`}
            title="Previous key"
            onClick={() => stepToKey(session, dial.id, -1)}
          >
            <ChevronLeft size={14} strokeWidth={1.5} aria-hidden />
          </button>
          <button
            className="plain h-6 w-6"
            aria-label={`Add a key to ${label}`}
            title="A key at the playhead"
            onClick={() => addKey(session, dial.id)}
          >
            <CirclePlus size={13} strokeWidth={1.5} aria-hidden />
          </button>
          <button
            className="plain h-6 w-6"
            aria-label={`Next key of ${label}`}
            title="Next key"
            onClick={() => stepToKey(session, dial.id, 1)}
          >
            <ChevronRight size={14} strokeWidth={1.5} aria-hidden />
          </button>
        </span>
      </div>
      {open && <CurveView {...{ dial, cue, span, width, label, scale }} />}
    </li>
  );
}

/** How its keys go on: eased, but for words. */
function Goes(props: { dial: Dial; cue: Cue; label: string }) {
  if (!isWritten(props.cue.keys[0]!.value)) return <Easing {...props} />;
  return (
    <span className="mr-auto px-1 text-[11px] text-muted" title="A word holds until the next key">
      hold
    </span>
  );
}

const nowText = (value: Value): string =>
  isColour(value)
    ? `× ${showReading(levelOf(value))}`
    : Array.isArray(value)
      ? value.map((v) => showReading(v)).join(' ')
      : valueOf(value);

/** What the cue says now. */
function Now({ cue, unit }: { cue: Cue; unit: string }) {
  const { clock } = useBench();
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (time: number) => void (text.current!.textContent = nowText(cueAt(cue, time)));
    show(clock.time);
    return clock.onTick(show);
  }, [clock, cue]);
  return (
    <span className="flex shrink-0 items-baseline gap-1 text-[11px] text-muted">
      <span ref={text} className="num text-ink" data-testid="cue-now" />
      {shownUnit(unit)}
    </span>
  );
}
