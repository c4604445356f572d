/** Controls of what only the artist can give: a formula, a written pattern, a ramp, an image, a shared dial. */
import { FolderOpen, Minus, Plus } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { setInput } from '../../../core/effect/edits.js';
import { readFormula, shownFormula, writeFormula } from '../../../core/effect/formulaText.js';
import { addStop, changeRamp, dropStop } from '../../../core/effect/ramps.js';
import { isImage, isLink, isWritten, type Colour, type Effect, type Strand } from '../../../core/effect/schema.js';
import { factorOf, rampOf } from '../../../core/lower/params.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { inputRecord, type LiteralRecord } from '../../../core/operators/record.js';
import { dialAt, literalOf, setLiteral } from '../../../session/actions.js';
import { importImage, recolourImage } from '../../../session/images.js';
import { ColourButton } from '../../ui/ColourEditor.js';
import { cssColour } from '../../ui/colour.js';
import { NumberField } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState, useShowing } from '../context.js';
import { LinkMenu } from './LinkMenu.js';

interface Props {
  readonly effect: Effect;
  readonly strand: Strand;
  readonly name: string;
  readonly record: LiteralRecord;
}

function Line({ label, title, children }: { label: string; title?: string; children: ReactNode }) {
  return (
    <div className="grid h-[25px] grid-cols-[52px_188px] items-center gap-1.5">
      <span className="truncate text-[12px] text-muted" title={title}>
        {label}
      </span>
      {children}
    </div>
  );
}

/** Typed text that is taken over when it can be read; until then what is wrong with it stands under it. */
function Written({
  label,
  shown,
  onWrite,
}: {
  label: string;
  shown: string;
  /** @returns what is wrong, and at which character; null when it was taken over */
  onWrite: (text: string) => { message: string; at: number } | null;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<{ message: string; at: number } | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const commit = () => {
    if (typed === null) return;
    const problem = onWrite(typed);
    setWrong(problem);
    if (problem) {
      // The cursor goes to the character that is meant.
      field.current?.setSelectionRange(problem.at, Math.min(problem.at + 1, typed.length));
      return;
    }
    setTyped(null);
  };
  return (
    <>
      <input
        ref={field}
        className={`field num w-full px-1.5 ${wrong ? 'border-fault' : ''}`}
        aria-label={label}
        aria-invalid={wrong !== null}
        spellCheck={false}
        maxLength={2000}
        value={typed ?? shown}
        onChange={(e) => {
          setTyped(e.target.value);
          setWrong(null);
        }}
        onBlur={() => {
          if (!wrong) commit();
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') commit();
          if (e.key === 'Escape') {
            setTyped(null);
            setWrong(null);
          }
        }}
      />
      {wrong && (
        <span
          role="alert"
          className="absolute top-[3px] right-3 left-[86px] z-10 truncate bg-panel text-[12px] leading-[18px] text-fault"
          title={wrong.message}
        >
          Character {wrong.at + 1}: {wrong.message}
        </span>
      )}
    </>
  );
}

function TextLine({ effect, strand, name, record }: Props) {
  const session = useBench();
  const given = strand.inputs?.[name];
  const plain = given && !isLink(given) && isWritten(given.value) ? given.value.text : String(record.default ?? '');
  const isFormula = operatorOf(strand.op).literals.formula !== undefined;
  const field = (
    <Written
      label={`${strand.name} ${name}`}
      shown={isFormula ? shownFormula(effect, strand) : plain}
      onWrite={(text) => {
        if (!isFormula) {
          session.documents.edit(`Change ${strand.name}`, (draft) =>
            setInput(draft, { id: strand.id, name, input: { value: { text } } }),
          );
          return null;
        }
        if (text === shownFormula(effect, strand)) return null;
        const read = readFormula(effect, strand, text);
        if (!read.ok) return read;
        session.documents.edit(`Change ${strand.name}`, (draft) => writeFormula(draft, { id: strand.id, inputs: read.inputs }));
        return null;
      }}
    />
  );
  // A formula is its row's whole business: it has the line to itself.
  if (isFormula) return <div className="flex h-[25px] w-[242px] items-center">{field}</div>;
  return (
    <Line label={name} title={record.note}>
      {field}
    </Line>
  );
}

const asColour = (rgb: readonly number[]): Colour => ({ rgb: [rgb[0]!, rgb[1]!, rgb[2]!], intensity: 1, unit: 'factor' });

function RampLines({ effect, strand, name }: Props) {
  const session = useBench();
  const showing = useShowing();
  const ramp = rampOf(strand, name);
  const edit = (label: string, change: Parameters<typeof changeRamp>[1]['change']) =>
    session.documents.edit(label, (draft) => changeRamp(draft, { id: strand.id, literal: name, change }));
  const stops = ramp.stops.map((stop, k) => {
    const place = literalOf(effect, showing, strand.id, `${name}.${k}.place`);
    const colour = literalOf(effect, showing, strand.id, `${name}.${k}.colour`);
    const rgb = Array.isArray(colour) ? colour : colour && typeof colour === 'object' && 'rgb' in colour ? colour.rgb : stop.rgb;
    return { at: typeof place === 'number' ? place : stop.at, rgb };
  });
  const gradient = stops.map((s) => `${cssColour([s.rgb[0]!, s.rgb[1]!, s.rgb[2]!])} ${s.at * 100}%`).join(', ');
  return (
    <>
      <div
        className="my-[5px] h-5 w-[242px] rounded-sm border border-line"
        style={{ background: stops.length > 1 ? `linear-gradient(90deg, ${gradient})` : cssColour([...stops[0]!.rgb] as never) }}
        role="img"
        aria-label={`The colours of ${strand.name}`}
      />
      {stops.map((stop, k) => {
        const [placeKey, colourKey] = [`${name}.${k}.place`, `${name}.${k}.colour`];
        const linked = { place: isLink(strand.inputs?.[placeKey]), colour: isLink(strand.inputs?.[colourKey]) };
        const source = (key: string) => {
          const input = strand.inputs?.[key];
          return isLink(input) ? (effect.strands.find((s) => s.id === input.from)?.name ?? input.from) : '';
        };
        return (
          <div key={k} className="flex h-[25px] w-[242px] items-center gap-1">
            <span className="num w-4 text-muted">{k + 1}</span>
            {linked.place ? (
              <span className="chip chip-strand">{source(placeKey)}</span>
            ) : (
              <NumberField
                label={`${strand.name} stop ${k + 1} place`}
                value={stop.at}
                step={0.01}
                width={58}
                onChange={(v) => setLiteral(session, strand.id, placeKey, v)}
                onDone={() => session.documents.endGesture()}
              />
            )}
            <LinkMenu
              effect={effect}
              strand={strand.id}
              name={placeKey}
              record={inputRecord(operatorOf(strand.op), placeKey)!}
              input={strand.inputs?.[placeKey]}
              isDial={dialAt(effect, strand.id, placeKey) !== undefined}
            />
            {linked.colour ? (
              <span className="chip chip-strand">{source(colourKey)}</span>
            ) : (
              <ColourButton
                label={`${strand.name} stop ${k + 1}`}
                colour={asColour(stop.rgb)}
                onChange={(c) => {
                  const factor = factorOf(c.intensity, c.unit);
                  setLiteral(
                    session,
                    strand.id,
                    colourKey,
                    c.rgb.map((v) => v * factor),
                  );
                }}
                onDone={() => session.documents.endGesture()}
              />
            )}
            <LinkMenu
              effect={effect}
              strand={strand.id}
              name={colourKey}
              record={inputRecord(operatorOf(strand.op), colourKey)!}
              input={strand.inputs?.[colourKey]}
              isDial={dialAt(effect, strand.id, colourKey) !== undefined}
            />
            <button
              className="plain ml-auto"
              aria-label={`Add a stop after stop ${k + 1}`}
              title="Add a stop after it"
              onClick={() =>
                session.documents.edit('Add a stop', (draft) => addStop(draft, { id: strand.id, literal: name, after: k }))
              }
            >
              <Plus size={14} strokeWidth={1.5} aria-hidden />
            </button>
            <button
              className="plain"
              aria-label={`Remove stop ${k + 1}`}
              title="Remove it"
              disabled={stops.length === 1}
              onClick={() =>
                session.documents.edit('Remove a stop', (draft) => dropStop(draft, { id: strand.id, literal: name, stop: k }))
              }
            >
              <Minus size={14} strokeWidth={1.5} aria-hidden />
            </button>
          </div>
        );
      })}
      <div className="flex h-[25px] items-center gap-1.5">
        <Select
          label={`${strand.name} between stops`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={ramp.interpolation}
          choices={['linear', 'smooth', 'step'].map((id) => ({ id, name: id }))}
          onChoose={(v) => edit('Change the ramp', { interpolation: v as typeof ramp.interpolation })}
        />
        <Select
          label={`${strand.name} mixes in`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={ramp.space}
          choices={[
            { id: 'linear', name: 'linear light' },
            { id: 'oklab', name: 'OKLab' },
          ]}
          onChoose={(v) => edit('Change the ramp', { space: v as typeof ramp.space })}
        />
      </div>
    </>
  );
}

function ImageLines({ effect, strand, name, record }: Props) {
  const session = useBench();
  const file = useRef<HTMLInputElement>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const given = strand.inputs?.[name];
  const key = given && !isLink(given) && isImage(given.value) ? given.value.asset : null;
  const asset = key === null ? undefined : effect.assets[key];
  return (
    <>
      <Line label={name} title={record.note}>
        <span className="flex min-w-0 items-center gap-1.5">
          <button className="button min-h-[22px] shrink-0 px-2 text-[12px]" onClick={() => file.current?.click()}>
            <FolderOpen size={12} strokeWidth={1.5} aria-hidden /> {asset ? 'Another' : 'Choose'}
          </button>
          <span
            className={`truncate text-[12px] ${wrong ? 'text-fault' : 'text-muted'}`}
            title={wrong ?? asset?.name}
            role={wrong ? 'alert' : undefined}
          >
            {wrong ?? (asset ? `${asset.name}, ${asset.size[0]} × ${asset.size[1]}` : 'none: grey')}
          </span>
          <input
            ref={file}
            type="file"
            className="sr-only"
            tabIndex={-1}
            aria-label={`File of ${strand.name}`}
            accept=".png,.jpg,.jpeg,.webp,.exr,.hdr"
            onChange={(e) => {
              const [chosen] = e.target.files ?? [];
              e.target.value = '';
              if (!chosen) return;
              setWrong(null);
              importImage(session.documents, strand.id, name, chosen).catch((error: Error) => setWrong(error.message));
            }}
          />
        </span>
      </Line>
      <Line label="read as" title="What its numbers mean">
        {asset && key !== null ? (
          <Select
            label={`${strand.name} read as`}
            className="button min-h-[22px] justify-self-start px-2 text-[12px]"
            value={asset.colour}
            choices={[
              { id: 'srgb', name: 'colours', hint: 'sRGB' },
              { id: 'data', name: 'data', hint: 'as they are' },
              { id: 'linear', name: 'linear colours' },
            ]}
            onChoose={(v) => recolourImage(session.documents, key, v as 'srgb' | 'data' | 'linear')}
          />
        ) : (
          <span className="text-[12px] text-muted">PNG, JPEG, WebP, EXR, HDR</span>
        )}
      </Line>
    </>
  );
}

function SharedLine({ effect, strand, name, record }: Props) {
  const session = useBench();
  const given = strand.inputs?.[name];
  const id = given && !isLink(given) && isWritten(given.value) ? given.value.text : '';
  const shared = effect.shared.find((s) => s.id === id);
  const library = useBenchState((s) => s.library);
  const known = [...effect.shared, ...library.filter((d) => !effect.shared.some((s) => s.id === d.id))];
  const NEW = ' new';
  return (
    <Line label="which" title={record.note}>
      <span className="flex items-center gap-1.5">
        <Select
          label={`${strand.name} which`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={id}
          choices={[...known.map((s) => ({ id: s.id, name: s.name })), { id: NEW, name: 'A new one' }]}
          onChoose={(chosen) =>
            chosen === NEW ? session.shared.add(strand.id, name) : session.shared.choose(strand.id, name, chosen)
          }
        />
        {shared && typeof shared.value === 'number' && (
          <NumberField
            label={`${shared.name}, in every effect`}
            value={shared.value}
            width={64}
            onChange={(value) => session.shared.turn(shared.id, value)}
            onDone={() => session.documents.endGesture()}
          />
        )}
      </span>
    </Line>
  );
}

export function Literals({ effect, strand }: { effect: Effect; strand: Strand }) {
  return Object.entries(operatorOf(strand.op).literals).map(([name, record]) => {
    const props = { effect, strand, name, record };
    if (record.form === 'ramp') return <RampLines key={name} {...props} />;
    if (record.form === 'image') return <ImageLines key={name} {...props} />;
    if (record.form === 'shared') return <SharedLine key={name} {...props} />;
    return <TextLine key={name} {...props} />;
  });
}
