/** An opened use of a motif: its revision and users, its inputs and outputs, which are renamed here, and the strands within. */
import { ChevronDown, ChevronRight } from 'lucide-react';
import { MOTIF, inputsOf, outputsOf, sourceOf, usesOf, withinOf } from '../../../core/effect/motifs.js';
import { recordOf } from '../../../core/effect/recordOf.js';
import { isLink, strandsOf, type Effect, type Motif, type Strand } from '../../../core/effect/schema.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { nameMotif, takeFromLibrary, unfoldUse } from '../../../session/motifs.js';
import { Named } from '../../ui/Named.js';
import { useBench, useBenchState } from '../../context.js';
import { INPUT_LINES, InputLine } from './InputLine.js';
import { WITHIN_ROW, insideOf, shownInputs } from './layout.js';
import { Swatch } from './Swatch.js';

interface Props {
  readonly effect: Effect;
  readonly strand: Strand;
  readonly motif: Motif;
}

export function MotifBody({ effect, strand, motif }: Props) {
  const session = useBench();
  const operator = recordOf(effect, strand);
  const inside = useBenchState((s) => s.opened.has(insideOf(strand.id)));
  return (
    <>
      <Standing effect={effect} motif={motif} />
      <div className="flex justify-between gap-3 pr-3">
        <div className={INPUT_LINES}>
          {shownInputs(effect, strand).map((name) => (
            <InputLine
              key={name}
              effect={effect}
              strand={strand}
              name={name}
              record={operator.inputs[name]!}
              onRename={(to) => nameMotif(session, { id: motif.id, port: { id: inputsOf(motif).get(name)!.id, name: to } })}
            />
          ))}
        </div>
        <Outputs effect={effect} strand={strand} motif={motif} />
      </div>
      <Inside strand={strand} motif={motif} open={inside} />
    </>
  );
}

/** Which revision it is, who else has it, and whether the library has a newer one, or any. */
function Standing({ effect, motif }: Omit<Props, 'strand'>) {
  const session = useBench();
  const known = useBenchState((s) => s.motifs.find((m) => m.motif.id === motif.id));
  const uses = usesOf(effect, motif.id).length;
  const others = known?.usedBy.filter((e) => e.id !== effect.id) ?? [];
  const newer = known && known.motif.revision > motif.revision ? known.motif : null;
  return (
    <div className="flex h-[25px] items-center gap-1.5 pr-3 text-[12px] text-muted">
      <Named
        label={`Name of the motif ${motif.name}`}
        name={motif.name}
        onName={(name) => nameMotif(session, { id: motif.id, name })}
      >
        <span className="text-text">{motif.name}</span>
      </Named>
      <span className="shrink-0" title={others.map((e) => e.name).join(', ')}>
        revision <span className="num text-ink">{motif.revision}</span>
        {uses > 1 && `, ${uses} here`}
        {others.length > 0 && `, ${others.length} other ${others.length === 1 ? 'effect' : 'effects'}`}
      </span>
      <span className="ml-auto shrink-0">
        {newer ? (
          <button className="button min-h-[20px] px-1.5 text-[12px]" onClick={() => takeFromLibrary(session, newer)}>
            Take {newer.revision}
          </button>
        ) : known ? (
          known.shipped ? (
            'shipped'
          ) : (
            'in the library'
          )
        ) : (
          <button className="button min-h-[20px] px-1.5 text-[12px]" onClick={() => void session.motifs.keep(motif)}>
            To the library
          </button>
        )}
      </span>
    </div>
  );
}

/** How many read one of its outputs. */
function readersOf(effect: Effect, use: string, port: string): number {
  const reads = (input: unknown) => {
    const i = input as Parameters<typeof isLink>[0];
    return isLink(i) && i.from === use && (i.port ?? 'out1') === port;
  };
  return [...strandsOf(effect).flatMap((s) => Object.values(s.inputs ?? {})), ...Object.values(effect.outputs)].filter(reads)
    .length;
}

function Outputs({ effect, strand, motif }: Props) {
  const session = useBench();
  return (
    <ul aria-label={`Outputs of ${strand.name}`} className="w-[104px] border-l border-line pl-2 text-[12px] leading-[15px]">
      {[...outputsOf(motif)].map(([port, output]) => {
        const readers = readersOf(effect, strand.id, port);
        const id = withinOf(strand.id, sourceOf(output).from);
        return (
          <li key={port} className="flex h-[25px] items-center gap-1.5">
            <span className="shrink-0 scale-[.8]">
              <Swatch id={id} rate={undefined} label={output.name} />
            </span>
            <span
              className="flex min-w-0 flex-col"
              title={`${output.name}, ${readers === 0 ? 'not read' : `read by ${readers}`}`}
            >
              <Named
                label={`Name of the output ${output.name}`}
                name={output.name}
                onName={(name) => nameMotif(session, { id: motif.id, port: { id: output.id, name } })}
              />
            </span>
          </li>
        );
      })}
    </ul>
  );
}

/** The strands within, as the use has them; what unfolds them. */
function Inside({ strand, motif, open }: { strand: Strand; motif: Motif; open: boolean }) {
  const session = useBench();
  const program = useBenchState((s) => s.program);
  const flip = () =>
    session.store.setState(({ opened }) => {
      const next = new Set(opened);
      if (!next.delete(insideOf(strand.id))) next.add(insideOf(strand.id));
      return { opened: next };
    });
  const Fold = open ? ChevronDown : ChevronRight;
  const count = motif.strands.length;
  return (
    <>
      <div className="flex h-[30px] items-center gap-1 pr-3 text-[12px] text-muted">
        <button className="plain -ml-1 px-1" aria-expanded={open} onClick={flip}>
          {count} {count === 1 ? 'strand' : 'strands'} inside
          <Fold size={12} strokeWidth={1.5} aria-hidden />
        </button>
        <button className="plain ml-auto px-1" onClick={() => unfoldUse(session, strand.id)}>
          <kbd>U</kbd> unfold here
        </button>
      </div>
      {open && (
        <ul aria-label={`Strands within ${strand.name}`} className="border-l border-line pb-1.5 pl-2">
          {strandsOf(motif as unknown as Effect).map((s) => {
            const id = withinOf(strand.id, s.id);
            const read = program?.strands.get(id);
            return (
              <li key={s.id} className="flex items-center gap-2 text-[12px]" style={{ height: WITHIN_ROW }}>
                <Swatch id={id} rate={undefined} label={s.name} />
                <span className="min-w-0 truncate">{s.name}</span>
                <span className="op shrink-0">{s.op === MOTIF ? 'motif' : operatorOf(s.op).label}</span>
                <span className="num ml-auto pr-3 text-muted">{read?.value.kind}</span>
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}
