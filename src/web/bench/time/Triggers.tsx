/**
 * The triggers under the cues: a lane each. A firing is a stem and a wedge as long as what it sets off; those of the file
 * are filled, live ones are outlines until they are kept. Firings are dragged along the axis; a key or a press fires.
 */
import { Check, CirclePlus, Trash2, X, Zap } from 'lucide-react';
import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { SAME_MOMENT, firingsOf, heardOf, lastAt, type Firing } from '../../../core/effect/triggers.js';
import type { Effect, Trigger } from '../../../core/effect/schema.js';
import {
  dropFiring,
  dropTrigger,
  fireNow,
  keepFirings,
  letGo,
  moveFiring,
  renameTrigger,
  setDuration,
  takeTrigger,
  triggerInHand,
} from '../../../session/triggering.js';
import { Named } from '../../ui/Named.js';
import { NumberField } from '../../ui/NumberField.js';
import { useBench, useBenchState } from '../../context.js';
import { COLUMNS, timeOf } from './axis.js';
import { placeLetter } from './letters.js';

const NONE: readonly Firing[] = [];

interface Props {
  readonly trigger: Trigger;
  readonly span: number;
  readonly width: number;
}

export function TriggerLane({ trigger, span, width }: Props) {
  const session = useBench();
  const held = useBenchState((s) => triggerInHand(s)?.id === trigger.id);
  const { name } = trigger;
  return (
    <li
      className={`${COLUMNS} h-7 border-t border-line`}
      data-trigger={trigger.id}
      onPointerDownCapture={() => takeTrigger(session, trigger.id)}
    >
      <span className="flex min-w-0 items-center gap-1.5 pr-3 pl-2">
        <button
          className={`plain h-6 w-6 shrink-0 ${held ? 'text-ink' : ''}`}
          aria-label={`Fire ${name}`}
          title={`Fires ${name} now${held ? '  T' : ''}`}
          onClick={() => fireNow(session, trigger.id)}
        >
          <Zap size={13} strokeWidth={1.5} aria-hidden />
        </button>
        <span className="min-w-0 truncate font-medium">
          <Named label={`Name of ${name}`} name={name} onName={(to) => renameTrigger(session, trigger.id, to)} />
        </span>
        {held && <kbd>T</kbd>}
        <Since trigger={trigger} />
      </span>
      <Firings {...{ trigger, span, width }} />
      <Deeds trigger={trigger} />
    </li>
  );
}

/** What can be done to all of it: its length, its live firings kept or let go, a firing of its own, its end. */
function Deeds({ trigger }: Pick<Props, 'trigger'>) {
  const session = useBench();
  const live = useBenchState((s) => s.firings[trigger.id] ?? NONE);
  const { id, name } = trigger;
  const button = (label: string, title: string, Icon: typeof X, act: () => void) => (
    <button className="plain h-6 w-6" aria-label={label} title={title} onClick={act}>
      <Icon size={13} strokeWidth={1.5} aria-hidden />
    </button>
  );
  return (
    <span className="flex items-center justify-end pr-2 pl-1">
      <span className="mr-auto">
        <NumberField
          label={`${name} duration`}
          value={trigger.duration}
          unit="s"
          step={0.05}
          low={0}
          width={58}
          onChange={(v) => setDuration(session, id, v)}
          onDone={() => session.documents.endGesture()}
        />
      </span>
      {live.length > 0 ? (
        <>
          {button(`Keep what was fired of ${name}`, 'Keep what was fired live: it becomes the effect’s own', Check, () =>
            keepFirings(session, id),
          )}
          {button(`Let go what was fired of ${name}`, 'Let go what was fired live', X, () => letGo(session, id))}
        </>
      ) : (
        <>
          {button(`Add a firing to ${name}`, 'A firing at the playhead, kept', CirclePlus, () => {
            fireNow(session, id);
            keepFirings(session, id);
          })}
          {button(`Delete ${name}`, 'Delete this trigger', Trash2, () => dropTrigger(session, id))}
        </>
      )}
    </span>
  );
}

/** How long ago it was fired, by the clock itself. */
function Since({ trigger }: Pick<Props, 'trigger'>) {
  const { clock } = useBench();
  const loop = useBenchState((s) => s.effect.loop);
  const live = useBenchState((s) => s.firings[trigger.id] ?? NONE);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const all = heardOf({ at: [...trigger.at, ...live.map((f) => f.at)] }, null);
    const show = (time: number) => {
      const [latest] = lastAt(all, time);
      text.current!.textContent = latest ? `${(time - latest.at).toFixed(2)} s ago` : all.length > 0 ? 'not yet' : 'never fired';
    };
    show(clock.time);
    return clock.onTick(show);
  }, [clock, trigger, live, loop]);
  return <span ref={text} className="num ml-auto shrink-0 text-[11px] text-muted" data-testid="fired-since" />;
}

/** Firings at one moment: one mark on the axis. */
interface Moment {
  readonly at: number;
  readonly letters: string;
  readonly kept: boolean;
  /** Their places among those that are kept, by rising time. */
  readonly firings: readonly number[];
}

function momentsOf(all: readonly Firing[], some: readonly Firing[], kept: boolean): Moment[] {
  const moments: Moment[] = [];
  for (const [k, firing] of some.entries()) {
    const letters = placeLetter(all, firing.place);
    const last = moments.at(-1);
    if (last && Math.abs(firing.at - last.at) < SAME_MOMENT)
      moments[moments.length - 1] = { ...last, letters: `${last.letters} ${letters}`.trim(), firings: [...last.firings, k] };
    else moments.push({ at: firing.at, letters, kept, firings: [k] });
  }
  return moments;
}

interface Drag {
  readonly x: number;
  readonly from: Effect;
  readonly firings: readonly number[];
}

/** A press on the axis goes to that time, a drag of a firing moves it. */
function Firings({ trigger, span, width }: Props) {
  const session = useBench();
  const live = useBenchState((s) => s.firings[trigger.id] ?? NONE);
  const drag = useRef<Drag | null>(null);
  const own = firingsOf(trigger);
  const all = [...own, ...live];
  const byTime = [...live].sort((a, b) => a.at - b.at);
  const moments = [...momentsOf(all, own, true), ...momentsOf(all, byTime, false)];
  const move = (event: PointerEvent) => {
    const held = drag.current;
    if (!held || Math.abs(event.clientX - held.x) < 3) return;
    moveFiring(session, held.from, trigger.id, held.firings, ((event.clientX - held.x) * span) / width);
  };
  const onKey = (event: KeyboardEvent, firings: readonly number[]) => {
    const { effect } = session.store.getState();
    if (event.key === 'ArrowLeft' || event.key === 'ArrowRight')
      moveFiring(session, effect, trigger.id, firings, (event.key === 'ArrowLeft' ? -1 : 1) / effect.fps);
    else if (event.key === 'Delete' || event.key === 'Backspace') dropFiring(session, trigger.id, firings);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      className="relative h-[27px] touch-none overflow-hidden bg-base"
      role="group"
      aria-label={`Firings of ${trigger.name}`}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        session.clock.pause();
        session.clock.set(timeOf(e, span));
      }}
    >
      {moments.map(({ at, letters, kept, firings }, k) => {
        return (
          <button
            key={`${kept} ${k}`}
            className="absolute top-1 h-5"
            style={{ left: (at / span) * width, width: Math.max(10, (trigger.duration / span) * width) }}
            data-kept={kept}
            aria-label={`${kept ? 'Firing' : 'Live firing'} of ${trigger.name} at ${at.toFixed(2)} s${letters ? `, at ${letters}` : ''}`}
            title={kept ? 'Drag it along; Delete takes it away' : 'Fired live, in no file until it is kept'}
            onPointerDown={(e) => {
              if (e.button !== 0) return;
              e.stopPropagation();
              if (!kept) return;
              e.currentTarget.setPointerCapture(e.pointerId);
              drag.current = { x: e.clientX, from: session.store.getState().effect, firings };
            }}
            onPointerMove={move}
            onPointerUp={() => {
              drag.current = null;
              session.documents.endGesture();
            }}
            onKeyDown={(e) => kept && onKey(e, firings)}
          >
            <Wedge letter={letters} kept={kept} wide={Math.max(10, (trigger.duration / span) * width)} />
          </button>
        );
      })}
    </div>
  );
}

function Wedge({ letter, kept, wide }: { letter: string; kept: boolean; wide: number }) {
  return (
    <svg className="absolute inset-0 overflow-visible" width={wide} height={20} aria-hidden>
      <path
        d={`M1 3 H ${Math.min(wide * 0.6, wide - 6).toFixed(1)} L ${wide.toFixed(1)} 17 H 1 Z`}
        fill={kept ? '#3a3350' : 'none'}
        stroke="var(--color-thread)"
      />
      <rect x={0} y={2} width={2} height={16} fill="var(--color-ink)" />
      {letter && (
        <text x={6} y={14} fontSize={10} fill="var(--color-ink)" className="font-medium">
          {letter}
        </text>
      )}
    </svg>
  );
}
