/** How a key goes over to the next: by name, by two handles, or as CSS writes it. */
import { Popover } from 'radix-ui';
import type { PointerEvent } from 'react';
import { EASES, byTime, cueAt, easeName, easing, handlesOf } from '../../../core/effect/cues.js';
import type { Cue, Dial, Ease } from '../../../core/effect/schema.js';
import { easeText, readEase } from '../../../core/formats/cueCsv.js';
import { changeKeys } from '../../../session/cueing.js';
import { NumberField } from '../../ui/NumberField.js';
import { PopoverContent } from '../../ui/PopoverContent.js';
import { showReading } from '../../ui/numbers.js';
import { useTyped } from '../../ui/useTyped.js';
import { ownKeys } from '../../ui/keys.js';
import { useBench } from '../../context.js';
import { levelOf } from './axis.js';
import { useChosenKeys } from './Keys.js';

/** The curve of an easing in a box; one that overshoots leaves it. */
function curveOf(ease: Ease, width: number, height: number, pad: number): string {
  const points = Array.from({ length: 33 }, (_, k) => k / 32);
  const x = (t: number) => pad + t * (width - 2 * pad);
  const y = (v: number) => height - pad - v * (height - 2 * pad);
  if (ease === 'step') return `M${x(0)} ${y(0)}H${x(1)}V${y(1)}`;
  const way = easing(ease);
  return points.map((t, k) => `${k === 0 ? 'M' : 'L'}${x(t).toFixed(1)} ${y(way(t)).toFixed(1)}`).join('');
}

/** @param label of the cue */
export function Easing({ dial, cue, label }: { dial: Dial; cue: Cue; label: string }) {
  const session = useBench();
  const chosen = useChosenKeys(cue);
  const keys = byTime(cue.keys);
  // Without a chosen one, the key whose way the playhead is on.
  const under = keys.findLastIndex((k) => k.time <= session.clock.time);
  const run = chosen.length > 0 ? chosen : [Math.max(0, under)];
  const key = keys[run[0]!] ?? keys[0]!;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          className="mr-auto min-w-0 truncate rounded-sm px-1 text-[11px] leading-6 text-muted hover:text-ink"
          aria-label={`Easing of ${label}: ${easeName(key.ease)}`}
        >
          {easeName(key.ease)}
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label={`Easing of ${label}`}
        side="top"
        align="end"
        sideOffset={8}
        className="w-[344px] p-4"
        onKeyDown={ownKeys}
      >
        <EasingEditor
          ease={key.ease}
          what={`key ${run[0]! + 1}${run[0]! + 1 < keys.length ? ` to key ${run[0]! + 2}` : ', the last'}`}
          label={label}
          now={showReading(levelOf(cueAt(cue, session.clock.time)))}
          onEase={(ease) => changeKeys(session, dial.id, run, { ease })}
          onDone={() => session.documents.endGesture()}
          onAll={() =>
            changeKeys(
              session,
              dial.id,
              keys.map((_, k) => k),
              { ease: key.ease },
            )
          }
        />
      </PopoverContent>
    </Popover.Root>
  );
}

interface EditorProps {
  readonly ease: Ease;
  /** Which keys it is between. */
  readonly what: string;
  readonly label: string;
  /** The value at the playhead. */
  readonly now: string;
  readonly onEase: (ease: Ease) => void;
  readonly onDone: () => void;
  readonly onAll: () => void;
}

function EasingEditor({ ease, what, label, now, onEase, onDone, onAll }: EditorProps) {
  const name = easeName(ease);
  const names = [...(Object.keys(EASES) as (keyof typeof EASES)[]), 'free' as const];
  return (
    <>
      <h3 className="head mb-2 text-[14px] leading-5">
        Easing <span className="ml-1 font-sans text-[12px] font-normal text-muted">{what}</span>
      </h3>
      <div className="mb-2 grid grid-cols-4 gap-1">
        {names.map((n) => {
          const its: Ease = n === 'free' ? [...handlesOf(ease)] : EASES[n];
          return (
            <button
              key={n}
              className={`flex h-[46px] flex-col items-center justify-end rounded-sm border pb-0.5 text-[11px] ${n === name ? 'border-edge bg-raised text-ink' : 'border-transparent text-muted hover:border-line'}`}
              aria-pressed={n === name}
              onClick={() => (onEase(typeof its === 'string' ? its : [...its]), onDone())}
            >
              <svg width={34} height={24} aria-hidden>
                <path d={curveOf(its, 34, 24, 4)} fill="none" stroke="currentColor" strokeWidth={1.25} />
              </svg>
              {n}
            </button>
          );
        })}
      </div>
      <Handles ease={ease} label={label} onEase={onEase} onDone={onDone} />
      <div className="-mx-4 mt-3 flex items-center justify-between border-t border-line px-4 pt-3 text-[12px] text-muted">
        <span>
          At the playhead <span className="num text-ink">{now}</span>
        </span>
        <button className="button" onClick={onAll}>
          Use for every key
        </button>
      </div>
    </>
  );
}

const [WIDTH, HEIGHT, PAD] = [104, 84, 16];

/** The two handles, dragged or typed; the text of it. */
function Handles({ ease, label, onEase, onDone }: Pick<EditorProps, 'ease' | 'label' | 'onEase' | 'onDone'>) {
  const handles = handlesOf(ease);
  const set = (k: number, v: number) => {
    const held = k % 2 === 0 ? Math.max(0, Math.min(1, v)) : v;
    onEase(handles.map((old, j) => (j === k ? held : old)) as [number, number, number, number]);
  };
  const { typed, field: text } = useTyped(easeText(ease).replaceAll(' ', '').replaceAll('0.', '.'), (written) => {
    const read = readEase(written);
    if (!read) return;
    onEase(read);
    onDone();
  });
  const wrong = typed !== null && readEase(typed) === null;
  const field = (k: number, name: string) => (
    <NumberField
      label={`${label} ${name}`}
      value={Math.round(handles[k]! * 1000) / 1000}
      step={0.01}
      width={62}
      onChange={(v) => set(k, v)}
      onDone={onDone}
    />
  );
  return (
    <div className="flex gap-3">
      <HandlesPicture ease={ease} label={label} onEase={onEase} onDone={onDone} />
      <div className="grid grow grid-cols-[24px_1fr_1fr] items-center gap-x-1 gap-y-1.5 text-[12px] text-muted">
        out {field(0, 'out x')} {field(1, 'out y')}
        in {field(2, 'in x')} {field(3, 'in y')}
        <input
          className={`field num col-span-3 h-6 min-w-0 px-1.5 text-[11px] ${wrong ? 'text-fault' : ''}`}
          aria-label={`${label} easing as CSS`}
          aria-invalid={wrong}
          title={wrong ? 'This is no easing, as CSS writes them' : undefined}
          {...text}
        />
      </div>
    </div>
  );
}

/** The curve, and its handles under the hand. */
function HandlesPicture({ ease, label, onEase, onDone }: Pick<EditorProps, 'ease' | 'label' | 'onEase' | 'onDone'>) {
  const handles = handlesOf(ease);
  const x = (t: number) => PAD + t * (WIDTH - 2 * PAD);
  const y = (v: number) => HEIGHT - PAD - v * (HEIGHT - 2 * PAD);
  const drag = (event: PointerEvent<SVGCircleElement>, k: 0 | 2) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const round = (n: number) => Math.round(n * 100) / 100;
    const next = [...handles] as [number, number, number, number];
    next[k] = round(Math.max(0, Math.min(1, (event.clientX - box.left - PAD) / (WIDTH - 2 * PAD))));
    next[k + 1] = round(1 - (event.clientY - box.top - PAD) / (HEIGHT - 2 * PAD));
    onEase(next);
  };
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      className="shrink-0 overflow-visible rounded-sm bg-base"
      role="group"
      aria-label={`Curve of ${label}`}
    >
      <path d={`M${x(0)} ${y(0)}H${x(1)}M${x(0)} ${y(1)}H${x(1)}`} stroke="var(--color-line)" />
      <path d={curveOf(ease, WIDTH, HEIGHT, PAD)} fill="none" stroke="var(--color-ink)" strokeWidth={1.5} />
      {([0, 2] as const).map((k) => (
        <g key={k}>
          <line x1={x(k / 2)} y1={y(k / 2)} x2={x(handles[k])} y2={y(handles[k + 1]!)} stroke="var(--color-edge)" />
          <circle
            cx={x(handles[k])}
            cy={y(handles[k + 1]!)}
            r={5}
            fill="var(--color-panel)"
            stroke="var(--color-ink)"
            className="cursor-grab touch-none"
            data-handle={k}
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => drag(e, k)}
            onPointerUp={onDone}
          />
        </g>
      ))}
    </svg>
  );
}
