/** An opened row: what the strand does, its inputs with sliders, its value over the loop. */
import { useEffect, useRef } from 'react';
import { insteadOf, setOption } from '../../../core/effect/edits.js';
import { isColour, isLink, type Effect, type Strand } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import type { InputRecord } from '../../../core/operators/record.js';
import { dialAt, literalOf, setLiteral } from '../../../session/actions.js';
import { CURVE_POINTS, type Readings } from '../../../workers/readings.js';
import { showReading } from '../../ui/numbers.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { NumberField, shownUnit } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { Slider } from '../../ui/Slider.js';
import { useBench, useBenchState, useShowing } from '../context.js';
import { shownInputs } from './layout.js';
import { LinkMenu } from './LinkMenu.js';
import { Literals } from './Literals.js';
import { drawCurve } from './Swatch.js';

interface LineProps {
  readonly effect: Effect;
  readonly strand: Strand;
  readonly name: string;
  readonly record: InputRecord;
}

function InputLine(props: LineProps) {
  const { effect, strand, name, record } = props;
  const input = strand.inputs?.[name];
  const dial = dialAt(effect, strand.id, name);
  const instead = insteadOf(strand, name);
  return (
    <div className="grid h-[25px] grid-cols-[52px_84px_64px_24px] items-center gap-1.5">
      <span
        className="flex items-center gap-1 truncate text-[12px] text-muted"
        title={`${name}: ${record.note}${record.unit ? `, in ${shownUnit(record.unit)}` : ''}`}
      >
        {dial && <span className="h-[7px] w-[7px] shrink-0 rounded-full border border-muted" role="img" aria-label="a dial" />}
        <span className="truncate">{name}</span>
      </span>
      {instead ? (
        <span className="col-span-2 text-[12px] text-muted">{instead} takes its place</span>
      ) : isLink(input) ? (
        <span className="col-span-2 flex items-center">
          <span className="chip chip-strand">
            {effect.strands.find((s) => s.id === input.from)?.name ?? input.from}
            {input.part ? `.${input.part}` : ''}
          </span>
        </span>
      ) : record.optional && !input ? (
        <span className="col-span-2 text-[12px] text-muted">left out</span>
      ) : (
        <LiteralControl {...props} soft={dial?.soft ?? record.soft} />
      )}
      <LinkMenu effect={effect} strand={strand.id} name={name} record={record} input={input} isDial={dial !== undefined} />
    </div>
  );
}

/** What edits an input's own value. @param soft the range that is offered */
function LiteralControl({ effect, strand, name, record, soft: [low, high] }: LineProps & { soft: readonly [number, number] }) {
  const session = useBench();
  const value = literalOf(effect, useShowing(), strand.id, name);
  const set = (v: Parameters<typeof setLiteral>[3]) => setLiteral(session, strand.id, name, v);
  const done = () => session.documents.endGesture();
  const label = `${strand.name} ${name}`;
  if (isColour(value))
    return (
      <span className="col-span-2 flex items-center gap-2">
        <ColourButton label={strand.name} colour={value} onChange={set} onDone={done} />
        <NumberField
          label={`${label} intensity`}
          value={value.intensity}
          unit={value.unit === 'stops' ? 'stops' : 'x'}
          step={0.1}
          width={64}
          onChange={(v) => set({ ...value, intensity: v })}
          onDone={done}
        />
      </span>
    );
  if (Array.isArray(value))
    return (
      <span className="col-span-2 flex items-center gap-1">
        {value.map((v, k) => (
          <NumberField
            key={k}
            label={`${label} ${'xyzw'[k]}`}
            value={v}
            step={0.01}
            width={46}
            onChange={(n) => set(value.map((old, j) => (j === k ? n : old)))}
            onDone={done}
          />
        ))}
      </span>
    );
  if (typeof value !== 'number')
    return (
      <span className="col-span-2 text-[12px] text-muted">
        {typeof record.default === 'object' && 'leaf' in record.default ? `the surface’s ${record.default.leaf}` : 'default'}
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
        width={64}
        onChange={set}
        onDone={done}
      />
    </>
  );
}

function Curve({ id }: { id: string }) {
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
    <span className="absolute top-[22px] right-3 w-[102px]">
      <canvas
        ref={canvas}
        width={200}
        height={128}
        className="block h-[64px] w-[100px] border border-line"
        role="img"
        aria-label="Its value over the loop, at the middle of the prop"
      />
      <span className="mt-1 flex justify-end gap-1.5 text-[11px] leading-4 whitespace-nowrap text-muted">
        over the loop <span ref={text} className="num text-ink" data-now={id} />
      </span>
    </span>
  );
}

export function OpenedRow({ strand }: { strand: Strand }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const operator = operatorOf(strand.op);
  return (
    <div className="relative pl-[86px]" data-opened={strand.id}>
      <p className="truncate pr-3 text-[12px] leading-[22px] text-muted" title={operator.summary}>
        {strand.note || operator.summary}
      </p>
      {Object.entries(operator.options).map(([name, o]) => (
        <div key={name} className="grid h-[25px] grid-cols-[52px_152px] items-center gap-1.5">
          <span className="text-[12px] text-muted" title={o.note}>
            {name}
          </span>
          <Select
            label={`${strand.name} ${name}`}
            className="button min-h-[22px] justify-self-start px-2 text-[12px]"
            value={strand.options?.[name] ?? o.default}
            choices={o.values.map((v) => ({ id: v, name: v }))}
            onChoose={(value) =>
              session.documents.edit(`Change ${strand.name}, ${name}`, (draft) =>
                setOption(draft, { id: strand.id, name, value }),
              )
            }
          />
        </div>
      ))}
      <Literals effect={effect} strand={strand} />
      {shownInputs(strand).map((name) => (
        <InputLine key={name} effect={effect} strand={strand} name={name} record={operator.inputs[name]!} />
      ))}
      <Curve id={strand.id} />
      {/* Narrow enough to stand beside the curve where there are few inputs. */}
      <div className="flex h-[24px] items-center gap-1 text-[12px] text-muted">
        <kbd>B</kbd> bypass <kbd className="ml-0.5">W</kbd> wrap <kbd className="ml-0.5">R</kbd> rename{' '}
        <kbd className="ml-0.5">F</kbd> feed
      </div>
    </div>
  );
}
