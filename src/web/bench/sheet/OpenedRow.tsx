/** An opened row: what the strand does, its inputs with sliders, its value over the loop. */
import { CircleHelp, Gauge } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { motifOf } from '../../../core/effect/motifs.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { isWritten, type Effect, type Strand } from '../../../core/effect/schema.js';
import type { OptionRecord } from '../../../core/operators/record.js';
import { CURVE_POINTS, type Readings } from '../../../workers/readings.js';
import { setOptionTo, toggleDial } from '../../../session/actions.js';
import { dialAt, optionShown } from '../../../session/showing.js';
import { showReading } from '../../ui/numbers.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState, useShowing } from '../../context.js';
import { KeyMark, useCue, useCueValue } from '../KeyMark.js';
import { INPUT_LINES, InputLine } from './InputLine.js';
import { shownInputs, wordsHeight, wordsOf } from './layout.js';
import { Literals } from './Literals.js';
import { MotifBody } from './MotifBody.js';
import { drawCurve } from './Swatch.js';

function Curve({ effect, strand }: { effect: Effect; strand: Strand }) {
  const { id } = strand;
  const session = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let last: Readings | null = null;
    const draw = () => {
      const context = canvas.current?.getContext('2d');
      const k = last?.ids.indexOf(id) ?? -1;
      if (!context || !last || k < 0) return;
      context.fillStyle = '#14121a';
      context.fillRect(0, 0, 200, 128);
      const curve = last.curves.subarray(k * CURVE_POINTS, (k + 1) * CURVE_POINTS);
      drawCurve(context, curve, 200, 128, '#ece7f3');
      const span = session.store.getState().effect.loop ?? 4;
      const x = ((session.clock.time % span) / span) * 198 + 1;
      context.fillStyle = '#c6f26d';
      context.fillRect(x - 1, 0, 2, 128);
      if (text.current) text.current.textContent = showReading(last.now[k * 4]!);
    };
    const offReadings = session.readings.onReadings((r) => {
      last = r;
      draw();
    });
    const offTick = session.clock.onTick(draw);
    return () => {
      offReadings();
      offTick();
    };
  }, [session, id]);
  return (
    <span className="absolute right-3 w-[102px]" style={{ top: wordsHeight(effect, strand) }}>
      <canvas
        ref={canvas}
        width={200}
        height={128}
        className="block h-[64px] w-[100px] border border-line"
        role="img"
        aria-label="Its value over the loop, at the middle of the prop"
      />
      <span className="mt-1 flex justify-end gap-1.5 text-[11px] leading-4 whitespace-nowrap text-muted">
        now <span ref={text} className="num text-ink" data-now={id} />
      </span>
    </span>
  );
}

export function OpenedRow({ strand }: { strand: Strand }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const operator = recordOf(effect, strand);
  const motif = motifOf(effect, strand);
  return (
    <div className="relative pl-[86px]" data-opened={strand.id}>
      <div className="flex pr-3 text-[12px] leading-4 text-muted" style={{ height: wordsHeight(effect, strand) }}>
        <p className="py-[3px]" title={operator.summary}>
          {wordsOf(effect, strand)}
        </p>
        <button
          className="plain -mt-px h-6 shrink-0"
          aria-label={`What ${operator.label} does`}
          title="What it does, with an example  H"
          onClick={() => session.store.setState({ help: strand.id })}
        >
          <CircleHelp size={13} strokeWidth={1.5} aria-hidden />
        </button>
      </div>
      {motif ? <MotifBody effect={effect} strand={strand} motif={motif} /> : <Body effect={effect} strand={strand} />}
    </div>
  );
}

interface OptionProps {
  readonly effect: Effect;
  readonly strand: Strand;
  readonly name: string;
  readonly option: OptionRecord;
}

/** One of some words: chosen, keyed, made a dial. */
function OptionLine({ effect, strand, name, option }: OptionProps) {
  const session = useBench();
  const showing = useShowing();
  const said = useCueValue(useCue(strand.id, name));
  const dial = dialAt(effect, strand.id, name) !== undefined;
  return (
    <div className="col-span-5 grid grid-cols-subgrid items-center">
      <span className="text-[12px] text-muted" title={option.note}>
        {name}
      </span>
      <Select
        label={`${strand.name} ${name}`}
        className="button col-span-2 min-h-[22px] justify-self-start px-2 text-[12px]"
        value={said && isWritten(said) ? said.text : (optionShown(effect, showing, strand.id, name) ?? option.default)}
        choices={option.values.map((v) => ({ id: v, name: v }))}
        onChoose={(value) => setOptionTo(session, strand.id, name, value)}
      />
      <KeyMark strand={strand.id} input={name} label={`${strand.name} ${name}`} />
      <button
        className="plain"
        aria-pressed={dial}
        aria-label={`${name}: a dial`}
        title={dial ? 'Take the dial away' : 'Make a dial'}
        onClick={() => toggleDial(session, strand.id, name)}
      >
        <Gauge size={13} strokeWidth={1.5} aria-hidden />
      </button>
    </div>
  );
}

/** Its options, what only the file gives, its inputs, and its value over the loop. */
function Body({ effect, strand }: { effect: Effect; strand: Strand }) {
  const operator = recordOf(effect, strand);
  return (
    <>
      <div className={INPUT_LINES}>
        {Object.entries(operator.options).map(([name, o]) => (
          <OptionLine key={name} {...{ effect, strand, name, option: o }} />
        ))}
      </div>
      <Literals effect={effect} strand={strand} />
      <div className={INPUT_LINES}>
        {shownInputs(effect, strand).map((name) => (
          <InputLine key={name} effect={effect} strand={strand} name={name} record={operator.inputs[name]!} />
        ))}
      </div>
      <Curve effect={effect} strand={strand} />
      {/* Narrow enough to stand beside the curve where there are few inputs. */}
      <div className="flex h-[24px] items-center gap-1 text-[12px] text-muted">
        <kbd>B</kbd> bypass <kbd className="ml-0.5">W</kbd> wrap <kbd className="ml-0.5">R</kbd> rename{' '}
        <kbd className="ml-0.5">F</kbd> feed
      </div>
    </>
  );
}
