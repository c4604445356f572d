/** The numbers of the prop in hand: where it stands, how it is turned, how large it is. */
import { ArrowDownToLine, Link2, Link2Off } from 'lucide-react';
import { createContext, useContext, useState, type ReactNode } from 'react';
import type { Vec3 } from '../../core/scene/edits.js';
import { LEAST_SCALE, degreesOf, someScale } from '../../core/scene/placing.js';
import { segmentsOf, sizesOf } from '../../core/scene/primitives.js';
import type { Prop } from '../../core/scene/stage.js';
import { cutInto, placeAt, scaleTo, sizeTo, toGround, turnTo } from '../../session/standing.js';
import { NumberField } from '../ui/NumberField.js';
import { Select } from '../ui/Select.js';
import { useBench } from '../context.js';
import { STEPS, keepStep, keptStep } from './steps.js';

const AXES = ['x', 'y', 'z'] as const;

/** Pixels of a field: in a panel, and in a column. */
const WIDE = 69;
const NARROW = 46;

const Narrow = createContext(false);
const useWidth = () => (useContext(Narrow) ? NARROW : WIDE);

function Line({ label, unit = '', children }: { label: string; unit?: string; children: ReactNode }) {
  const columns = useContext(Narrow)
    ? 'grid-cols-[36px_46px_46px_46px_24px] gap-0.5'
    : 'grid-cols-[48px_69px_69px_69px_14px] gap-1';
  return (
    <div className={`grid h-7 items-center ${columns}`}>
      <span className="text-muted">{label}</span>
      {children}
      <span className="col-start-5 text-[11px] text-muted">{unit}</span>
    </div>
  );
}

/** @param narrow in a column of 240 pixels */
export function PropNumbers({ prop, narrow = false }: { prop: Prop; narrow?: boolean }) {
  return (
    <Narrow.Provider value={narrow}>
      <Numbers prop={prop} />
    </Narrow.Provider>
  );
}

function Numbers({ prop }: { prop: Prop }) {
  const session = useBench();
  const narrow = useContext(Narrow);
  const width = useWidth();
  const [together, setTogether] = useState(true);
  const done = () => session.documents.endGesture();
  const { id, name, place, scale, locked } = prop;
  const turn = degreesOf(prop.turn);
  const [step, setStep] = useState(keptStep);
  const three = (
    what: string,
    values: readonly number[],
    by: number,
    set: (next: Vec3) => void,
    next: (k: number, v: number) => Vec3 = (k, v) => values.map((old, axis) => (axis === k ? v : old)) as Vec3,
  ) =>
    AXES.map((axis, k) => (
      <NumberField
        key={axis}
        label={`${name} ${what} ${axis}`}
        value={Math.round(values[k]! * 1000) / 1000}
        mark={narrow ? undefined : axis}
        step={by}
        width={width}
        onChange={(v) => set(next(k, v))}
        onDone={done}
      />
    ));
  // All three by the same factor, so that its shape stays.
  const scaled = (k: number, v: number): Vec3 =>
    together && scale[k] !== 0
      ? (scale.map((old) => someScale(Number(((old * v) / scale[k]!).toPrecision(6)))) as Vec3)
      : (scale.map((old, axis) => (axis === k ? someScale(v) : old)) as Vec3);
  return (
    <fieldset
      disabled={locked}
      className="-mx-4 mt-3 border-t border-line px-4 pt-3 disabled:opacity-60"
      aria-label={`Numbers of ${name}`}
    >
      <div className="mb-1 flex items-center gap-2">
        <h3 className="head min-w-0 grow truncate text-[13px] leading-5">{name}</h3>
        {locked && <span className="text-[12px] text-muted">locked</span>}
      </div>
      <Line label="Place" unit="m">
        {three('place', place, step || 0.01, (p) => placeAt(session, id, p))}
      </Line>
      <Line label="Turn" unit="°">
        {three('turn', turn, 1, (t) => turnTo(session, id, t))}
      </Line>
      <div className="relative">
        <Line label="Scale">{three('scale', scale, 0.01, (s) => scaleTo(session, id, s), scaled)}</Line>
        <button
          className="plain absolute top-0.5 -right-1.5"
          aria-pressed={together}
          aria-label="Scale all three together"
          title={together ? 'All three together' : 'Each by itself'}
          onClick={() => setTogether(!together)}
        >
          {together ? <Link2 size={13} strokeWidth={1.5} aria-hidden /> : <Link2Off size={13} strokeWidth={1.5} aria-hidden />}
        </button>
      </div>
      <Sizes prop={prop} />
      <Segments prop={prop} />
      <Foot prop={prop} step={step} onStep={setStep} />
    </fieldset>
  );
}

/** What sets it down, and how far apart places are. */
function Foot({ prop, step, onStep }: { prop: Prop; step: number; onStep: (step: number) => void }) {
  const session = useBench();
  const narrow = useContext(Narrow);
  return (
    <div className="mt-2 flex items-center gap-2">
      <button
        className={`button ${narrow ? 'px-1.5' : ''}`}
        title="Sets it on the ground"
        onClick={() => toGround(session, prop.id)}
      >
        <ArrowDownToLine size={14} strokeWidth={1.5} aria-hidden />
        {narrow ? 'To the ground' : 'Set on the ground'}
      </button>
      <span className="grow" />
      <StepChoice
        step={step}
        onStep={(chosen) => {
          keepStep(chosen);
          onStep(chosen);
        }}
      />
    </div>
  );
}

function Sizes({ prop }: { prop: Prop }) {
  const session = useBench();
  const narrow = useContext(Narrow);
  const width = useWidth();
  const sizes = sizesOf(prop.source);
  if (sizes.length === 0) return null;
  return (
    <Line label="Size" unit="m">
      {sizes.map(({ name, value }, k) => (
        <NumberField
          key={name}
          label={`${prop.name} ${name}`}
          value={value}
          mark={narrow ? undefined : (SHORT[name] ?? name)}
          step={0.01}
          low={LEAST_SCALE}
          high={1000}
          width={width}
          onChange={(v) => sizeTo(session, prop.id, k, v)}
          onDone={() => session.documents.endGesture()}
        />
      ))}
    </Line>
  );
}

/** How often it is cut, each way: what bends needs many cuts. */
function Segments({ prop }: { prop: Prop }) {
  const session = useBench();
  const narrow = useContext(Narrow);
  const width = useWidth();
  const cuts = segmentsOf(prop.source);
  // Paint is of these vertices: it is carried over where the Stage room subdivides.
  if (cuts.length === 0 || prop.paint !== null) return null;
  return (
    <Line label="Cuts">
      {cuts.map(({ name, value }, k) => (
        <NumberField
          key={name}
          label={`${prop.name} cuts ${name}`}
          value={value}
          mark={narrow ? undefined : k === 0 ? 'u' : 'v'}
          step={1}
          low={1}
          high={512}
          width={width}
          onChange={(v) => cutInto(session, prop.id, k, v)}
          onDone={() => session.documents.endGesture()}
        />
      ))}
    </Line>
  );
}
const SHORT: Readonly<Record<string, string>> = { width: 'w', height: 'h', depth: 'd', radius: 'r', length: 'l', thickness: 't' };

/** How far apart the places are that a drag puts things at. */
function StepChoice({ step, onStep }: { step: number; onStep: (step: number) => void }) {
  const narrow = useContext(Narrow);
  return (
    <>
      {!narrow && <span className="text-[12px] text-muted">step</span>}
      <Select
        label="Step"
        value={String(step)}
        choices={STEPS.map((s) => ({ id: String(s), name: s === 0 ? 'none' : `${s} m` }))}
        onChoose={(chosen) => onStep(Number(chosen))}
      />
    </>
  );
}
