/** Controls of what only the artist can give: a formula, a written pattern, a ramp, an image, a shared dial, a trigger. */
import { FolderOpen, Zap } from 'lucide-react';
import { Suspense, lazy, useRef, useState, type ReactNode } from 'react';
import { setInput } from '../../../core/effect/edits.js';
import { readFormula, shownFormula, wordsAbove, writeFormula } from '../../../core/effect/formulaText.js';
import { isImage, isLink, isWritten, type Effect, type Strand } from '../../../core/effect/schema.js';
import { triggerOf } from '../../../core/effect/triggers.js';
import { FORMULA_FUNCTIONS, FORMULA_PLACES } from '../../../core/operators/formula/lower.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { type LiteralRecord } from '../../../core/operators/record.js';
import { importImage, recolourImage } from '../../../session/imports.js';
import { fireNow, newTrigger, takeTrigger } from '../../../session/triggering.js';
import { NumberField } from '../../ui/NumberField.js';
import { Select } from '../../ui/Select.js';
import { useTyped } from '../../ui/useTyped.js';
import { useBench, useBenchState } from '../../context.js';
import type { Word, Wrong } from './FormulaField.js';
import { RampLines } from './RampLines.js';

const FormulaField = lazy(() => import('./FormulaField.js'));

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

/** Typed text, taken over at its end. */
function Written({ label, shown, onWrite }: { label: string; shown: string; onWrite: (text: string) => void }) {
  const { field } = useTyped(shown, onWrite);
  return (
    <input
      className="field num w-full px-1.5"
      aria-label={label}
      spellCheck={false}
      maxLength={2000}
      {...field}
      onKeyDown={(e) => {
        field.onKeyDown(e);
        // Its letters are no keys of the row.
        e.stopPropagation();
      }}
    />
  );
}

function WrongText({ wrong: { message, at } }: { wrong: Wrong }) {
  return (
    <span
      role="alert"
      className="absolute top-[3px] right-3 left-[86px] z-10 truncate bg-panel text-[12px] leading-[18px] text-fault"
      title={message}
    >
      Character {at + 1}: {message}
    </span>
  );
}

/** What a formula may call on: the strands above, numbers of its own, functions. */
function wordsOf(effect: Effect, strand: Strand): Word[] {
  return [
    ...[...wordsAbove(effect, strand.id)].map(([word, s]): Word => ({ word, kind: 'strand', about: operatorOf(s.op).label })),
    ...Object.entries(FORMULA_FUNCTIONS).map(
      ([
        word,
        {
          takes: [least, most],
        },
      ]): Word => ({
        word,
        kind: 'function',
        about: `of ${least === most ? least : `${least} to ${most}`}`,
      }),
    ),
    ...Object.entries(FORMULA_PLACES).map(([word, about]): Word => ({ word, kind: 'number', about })),
    { word: 'pi', kind: 'number', about: '3.14159…' },
  ];
}

/** A formula is its row's whole business: it has the line to itself. */
function FormulaLine({ effect, strand, name }: Props) {
  const session = useBench();
  const [wrong, setWrong] = useState<Wrong | null>(null);
  const shown = shownFormula(effect, strand);
  const read = (text: string) => readFormula(session.store.getState().effect, strand, text);
  return (
    <div className="flex h-[25px] w-[242px] items-center">
      <Suspense fallback={<span className="field num w-full truncate px-1.5">{shown}</span>}>
        <FormulaField
          label={`${strand.name} ${name}`}
          shown={shown}
          words={() => wordsOf(session.store.getState().effect, strand)}
          check={(text) => {
            const result = read(text);
            return result.ok ? null : result;
          }}
          onWrite={(text) => {
            const result = read(text);
            if (!result.ok) return result;
            session.documents.edit(`Change ${strand.name}`, (draft) =>
              writeFormula(draft, { id: strand.id, inputs: result.inputs }),
            );
            return null;
          }}
          onWrong={setWrong}
        />
      </Suspense>
      {wrong && <WrongText wrong={wrong} />}
    </div>
  );
}

function TextLine(props: Props) {
  const session = useBench();
  const { strand, name, record } = props;
  if (operatorOf(strand.op).literals.formula !== undefined) return <FormulaLine {...props} />;
  const given = strand.inputs?.[name];
  const plain = given && !isLink(given) && isWritten(given.value) ? given.value.text : String(record.default ?? '');
  return (
    <Line label={name} title={record.note}>
      <Written
        label={`${strand.name} ${name}`}
        shown={plain}
        onWrite={(text) =>
          session.documents.edit(`Change ${strand.name}`, (draft) =>
            setInput(draft, { id: strand.id, name, input: { value: { text } } }),
          )
        }
      />
    </Line>
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

/** Which trigger is heard, or a new one; and firing it from here. */
function TriggerLine({ effect, strand, name, record }: Props) {
  const session = useBench();
  const given = strand.inputs?.[name];
  const named = given && !isLink(given) && isWritten(given.value) ? given.value.text : '';
  const trigger = triggerOf(effect, named);
  const NEW = ' new';
  return (
    <Line label="trigger" title={record.note}>
      <span className="flex items-center gap-1.5">
        <Select
          label={`${strand.name} trigger`}
          className="button min-h-[22px] px-2 text-[12px]"
          value={trigger?.id ?? ''}
          choices={[...effect.triggers.map((t) => ({ id: t.id, name: t.name })), { id: NEW, name: 'A new one' }]}
          onChoose={(chosen) => {
            if (chosen === NEW) return newTrigger(session, { strand: strand.id, input: name });
            session.documents.edit('Choose a trigger', (draft) =>
              setInput(draft, { id: strand.id, name, input: { value: { text: chosen } } }),
            );
            takeTrigger(session, chosen);
          }}
        />
        {trigger && (
          <button className="button min-h-[22px] px-2 text-[12px]" onClick={() => fireNow(session, trigger.id)}>
            <Zap size={12} strokeWidth={1.5} aria-hidden /> Fire
          </button>
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
    if (record.form === 'trigger') return <TriggerLine key={name} {...props} />;
    return <TextLine key={name} {...props} />;
  });
}
