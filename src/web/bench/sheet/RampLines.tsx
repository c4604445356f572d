/** A ramp: its stops, each with a place and a colour that are inputs like any other, and how it goes between them. */
import { Minus, Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import { addStop, changeRamp, dropStop } from '../../../core/effect/ramps.js';
import { factorOf, isColour, isLink, type Colour, type Effect, type Strand, type Value } from '../../../core/effect/schema.js';
import { rampOf } from '../../../core/lower/params.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { inputRecord } from '../../../core/operators/record.js';
import { setLiteral } from '../../../session/actions.js';
import { dialAt, literalOf, type Showing } from '../../../session/showing.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { NumberField } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { useBench, useShowing } from '../../context.js';
import { KeyMark } from '../KeyMark.js';
import { LinkMenu } from './LinkMenu.js';
import { RampStrip } from './RampStrip.js';

interface RampProps {
  readonly effect: Effect;
  readonly strand: Strand;
  /** Of the ramp among the strand's literals. */
  readonly name: string;
}

const asColour = (rgb: readonly number[]): Colour => ({ rgb: [rgb[0]!, rgb[1]!, rgb[2]!], intensity: 1, unit: 'factor' });

/** The ramp's stops as they are shown: links keep what the file has. */
function shownStops(effect: Effect, showing: Showing, strand: Strand, name: string) {
  return rampOf(strand, name).stops.map((stop, k) => {
    const place = literalOf(effect, showing, strand.id, `${name}.${k}.place`);
    const colour = literalOf(effect, showing, strand.id, `${name}.${k}.colour`);
    const rgb = Array.isArray(colour) ? colour : isColour(colour) ? colour.rgb : stop.rgb;
    return { at: typeof place === 'number' ? place : stop.at, rgb };
  });
}
type Stop = ReturnType<typeof shownStops>[number];

export function RampLines({ effect, strand, name }: RampProps) {
  const session = useBench();
  const showing = useShowing();
  const ramp = rampOf(strand, name);
  const edit = (change: Parameters<typeof changeRamp>[1]['change']) =>
    session.documents.edit('Change the ramp', (draft) => changeRamp(draft, { id: strand.id, literal: name, change }));
  const stops = shownStops(effect, showing, strand, name);
  return (
    <>
      <RampStrip strand={strand} name={name} ramp={ramp} stops={stops} />
      {stops.map((stop, k) => (
        <StopLine key={k} effect={effect} strand={strand} name={name} stop={stop} place={k} only={stops.length === 1} />
      ))}
      <div className="flex h-[25px] items-center gap-1.5">
        <Select
          label={`${strand.name} between stops`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={ramp.interpolation}
          choices={['linear', 'smooth', 'step'].map((id) => ({ id, name: id }))}
          onChoose={(v) => edit({ interpolation: v as typeof ramp.interpolation })}
        />
        <Select
          label={`${strand.name} mixes in`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={ramp.space}
          choices={[
            { id: 'linear', name: 'linear light' },
            { id: 'oklab', name: 'OKLab' },
          ]}
          onChoose={(v) => edit({ space: v as typeof ramp.space })}
        />
      </div>
    </>
  );
}

/** One stop: its place and its colour, each a literal or a link. @param place which one it is, counted from 0 */
function StopLine({ effect, strand, name, stop, place, only }: RampProps & { stop: Stop; place: number; only: boolean }) {
  const session = useBench();
  const label = `${strand.name} stop ${place + 1}`;
  const set = (key: string, value: Value) => setLiteral(session, strand.id, key, value);
  const done = () => session.documents.endGesture();
  return (
    <div className="flex h-[25px] w-[252px] items-center gap-0.5">
      <span className="num w-4 text-muted">{place + 1}</span>
      <StopInput effect={effect} strand={strand} name={`${name}.${place}.place`}>
        {(key) => (
          <NumberField
            label={`${label} place`}
            value={stop.at}
            step={0.01}
            width={50}
            onChange={(v) => set(key, v)}
            onDone={done}
          />
        )}
      </StopInput>
      <StopInput effect={effect} strand={strand} name={`${name}.${place}.colour`}>
        {(key) => (
          <ColourButton
            label={label}
            colour={asColour(stop.rgb)}
            onChange={({ rgb, intensity, unit }) => {
              const factor = factorOf(intensity, unit);
              set(
                key,
                rgb.map((v) => v * factor),
              );
            }}
            onDone={done}
          />
        )}
      </StopInput>
      <button
        className="plain ml-auto"
        aria-label={`Add a stop after stop ${place + 1}`}
        title="Add a stop after it"
        onClick={() =>
          session.documents.edit('Add a stop', (draft) => addStop(draft, { id: strand.id, literal: name, after: place }))
        }
      >
        <Plus size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain"
        aria-label={`Remove stop ${place + 1}`}
        title="Remove it"
        disabled={only}
        onClick={() =>
          session.documents.edit('Remove a stop', (draft) => dropStop(draft, { id: strand.id, literal: name, stop: place }))
        }
      >
        <Minus size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </div>
  );
}

/** An input of a stop: what it is linked to, or what edits it; and the menu that links it. */
function StopInput({ effect, strand, name, children }: RampProps & { children: (key: string) => ReactNode }) {
  const input = strand.inputs?.[name];
  return (
    <>
      {isLink(input) ? (
        <span className="chip chip-strand">{effect.strands.find((s) => s.id === input.from)?.name ?? input.from}</span>
      ) : (
        <>
          {children(name)}
          <KeyMark strand={strand.id} input={name} label={`${strand.name} ${name}`} />
        </>
      )}
      <LinkMenu
        effect={effect}
        strand={strand.id}
        name={name}
        record={inputRecord(operatorOf(strand.op), name)!}
        input={input}
        isDial={dialAt(effect, strand.id, name) !== undefined}
      />
    </>
  );
}
