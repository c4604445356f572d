/** Adding a strand: a few letters and Enter. */
import { Command } from 'cmdk';
import { useMemo, useState, type KeyboardEvent } from 'react';
import type { Motif } from '../../../core/effect/schema.js';
import type { TypedLine } from '../../../core/effect/typed.js';
import { findOperators } from '../../../core/operators/find.js';
import type { OperatorRecord } from '../../../core/operators/record.js';
import { outputRecord } from '../../../core/effect/outputs.js';
import type { Prospect } from '../../../session/adding.js';
import { stepWords, type Chain, type Here } from '../../../session/chain.js';
import { motifsAtHand } from '../../../session/motifLibrary.js';
import type { Replacing } from '../../../session/replacing.js';
import { useBenchState } from '../../context.js';
import { OperatorPicture } from './OperatorPicture.js';

/** What is done with what is picked: added, put between, or added and opened. */
export type AddHow = 'row' | 'splice' | 'inputs';

/** What is picked: an operation, the line that was typed with it, and which way to read the strand above. */
export interface Operation {
  /** Empty where the line ends in an output. */
  readonly op: string;
  readonly typed: string;
  readonly turn: number;
}

interface Props {
  readonly y: number;
  /** What would be added here. */
  readonly chain: Chain;
  /** What it would do to put an operation in a strand's place, where that is what is asked for. */
  readonly replaces?: Replacing;
  readonly onAdd: (pick: Operation, how: AddHow) => void;
  readonly onClose: () => void;
}

/** A motif among the operations that are found. */
export const motifKey = ({ id }: Pick<Motif, 'id'>): string => `motif ${id}`;

/** What a list shows of an operation, or of a motif. */
interface Shown extends Pick<OperatorRecord, 'id' | 'label' | 'summary'> {
  readonly family: string;
  readonly motif?: Motif;
}

const EVERY: readonly Motif[] = [];

/** Motifs that answer to some words: by their names before all operations, by their notes after them. */
function withMotifs(found: readonly OperatorRecord[], motifs: readonly Motif[], words: string): Shown[] {
  const wanted = words.trim().toLowerCase().split(/\s+/).filter(Boolean);
  const answers = (text: string) => wanted.every((w) => text.toLowerCase().includes(w));
  const shown = (motif: Motif): Shown => ({
    ...{ id: motifKey(motif), label: motif.name, family: 'Motif', motif },
    summary: motif.note ?? `${motif.strands.length} strands, used as one.`,
  });
  if (wanted.length === 0) return [...found, ...motifs.map(shown)];
  // A letter or two is in many a name.
  const names = wanted.join(' ').length > 2;
  const named = motifs.filter((m) => (names && answers(m.name)) || wanted.join(' ') === 'motif');
  const noted = motifs.filter((m) => !named.includes(m) && answers(`${m.name} ${m.note ?? ''} motif`));
  // An operation that is called exactly so is meant.
  const exact = found[0]?.label.toLowerCase() === wanted.join(' ') ? 1 : 0;
  return [...found.slice(0, exact), ...named.map(shown), ...found.slice(exact), ...noted.map(shown)];
}

/** The typed letters underlined where they are found. */
function Marked({ text, typed }: { text: string; typed: string }) {
  const at = typed === '' ? -1 : text.toLowerCase().indexOf(typed.toLowerCase());
  if (at < 0) return <>{text}</>;
  return (
    <>
      {text.slice(0, at)}
      <span className="underline decoration-edge underline-offset-2">{text.slice(at, at + typed.length)}</span>
      {text.slice(at + typed.length)}
    </>
  );
}

/** What was typed, what is found for it, and what would come of the one that is chosen. */
function usePicking({ chain, replaces }: Pick<Props, 'chain' | 'replaces'>) {
  const [typed, setTyped] = useState('');
  const here = useMemo(() => chain.here(replaces ? '' : typed), [chain, replaces, typed]);
  const { adding, feeds } = here;
  const effect = useBenchState((s) => s.effect);
  const library = useBenchState((s) => s.motifs);
  const motifs = useMemo(
    // A line of several operations is of operations alone.
    () => (replaces || typed.includes(';') ? EVERY : motifsAtHand(effect, library)),
    [replaces, typed, effect, library],
  );
  // What begins with a motif's whole name is that motif, whatever else its words might say.
  const use = useMemo(() => adding.use(motifs, typed), [adding, motifs, typed]);
  const asked = useMemo(
    (): TypedLine => (replaces ? { name: null, words: typed, rest: '' } : here.line),
    [replaces, typed, here.line],
  );
  const found = useMemo(() => {
    if (feeds) return [];
    // Operations always show, also where a motif is called the same: that goes under them.
    if (use) return withMotifs(findOperators(asked.words), [use.motif], use.motif.name);
    return withMotifs(findOperators(asked.words), asked.rest ? EVERY : motifs, asked.words);
  }, [feeds, motifs, use, asked.rest, asked.words]);
  const [gone, setGone] = useState<string | null>(null);
  // The best, until another one of those that are found is gone to: told in the same render as they are, so that it is seen.
  const chosen = found.some((o) => o.id === gone) ? gone! : (found[0]?.id ?? '');
  const [turned, setTurned] = useState({ of: '', by: 0 });
  const turn = turned.of === chosen ? turned.by : 0;
  const used = use && chosen === motifKey(use.motif) ? use : null;
  const line = used ? { name: used.name, words: used.motif.name, rest: '' } : asked;
  const prospect = useMemo(() => {
    if (used) return adding.foreseeUse(used);
    return replaces || !chosen || chosen.startsWith('motif ') ? null : adding.foresee(chosen, asked.rest, turn);
  }, [adding, used, replaces, chosen, asked.rest, turn]);
  const type = (text: string) => {
    setTyped(text.replace(/^\//, ''));
    setGone(null);
  };
  return {
    typed,
    type,
    here,
    line,
    found,
    chosen,
    go: setGone,
    turn,
    turnBy: (by: number) => setTurned({ of: chosen, by: turn + by }),
    prospect,
  };
}

export function Picker({ y, chain, replaces, onAdd, onClose }: Props) {
  const { typed, type, here, line, found, chosen, go, turn, turnBy, prospect } = usePicking({
    chain,
    ...(replaces ? { replaces } : {}),
  });
  const add = (op: string, how: AddHow) => {
    if ((op || here.feeds) && here.why === null && !prospect?.why) onAdd({ op, typed, turn: op === chosen ? turn : 0 }, how);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onClose();
    else if (event.key === 'Tab') turnBy(event.shiftKey ? -1 : 1);
    else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) add(chosen, 'inputs');
    else if (event.key === 'Enter' && event.shiftKey) add(chosen, 'splice');
    else if (event.key === 'Enter' && here.feeds) add('', 'row');
    else return;
    event.preventDefault();
  };
  return (
    <>
      {!replaces && <span className="absolute left-11 h-px w-28 bg-ink" style={{ top: y }} aria-hidden />}
      <Command
        className="absolute left-[156px] z-20 flex max-h-[302px] w-[292px] flex-col rounded-md border border-edge bg-panel p-2"
        style={{ top: y + 1 }}
        role="dialog"
        aria-label={replaces ? `Another operation for ${replaces.name}` : 'Add a strand'}
        label={replaces ? 'Operation to put there' : 'Operation to add'}
        // Found and put in order by the operators' own words.
        shouldFilter={false}
        value={chosen}
        onValueChange={go}
        onKeyDown={onKeyDown}
        vimBindings={false}
      >
        <label className="flex h-7 shrink-0 items-center rounded-sm border-2 border-wisp bg-base px-2">
          <span className="num mr-0.5 text-muted">/</span>
          <Command.Input
            autoFocus
            className="num min-w-0 grow bg-transparent text-[12px] outline-none"
            value={typed}
            onValueChange={type}
            onBlur={(e) => {
              if (!e.currentTarget.closest('[role="dialog"]')?.contains(e.relatedTarget as Node)) onClose();
            }}
          />
          <span className="ml-2 shrink-0 text-[12px] text-muted">{here.feeds ? 'output' : `${found.length} found`}</span>
        </label>
        <Command.List label="Operations" className="scroll my-1 grow overflow-y-auto">
          {found.map((o) => (
            <Command.Item
              key={o.id}
              value={o.id}
              className="flex h-[37px] items-center gap-2.5 rounded-sm px-1.5 data-[selected=true]:bg-raised data-[selected=true]:shadow-[inset_0_0_0_1px_var(--color-edge)]"
              onPointerDown={(e) => {
                // Nothing takes the focus from what is typed.
                e.preventDefault();
                add(o.id, e.shiftKey ? 'splice' : 'row');
              }}
              onSelect={() => add(o.id, 'row')}
            >
              <Found shown={o} typed={line.words} />
            </Command.Item>
          ))}
          <Command.Empty className="px-2 py-3 text-muted">
            {here.feeds
              ? `What was made last goes into ${outputRecord(here.feeds.output).label}.`
              : `Nothing is called “${line.words.trim()}”, and nothing is said to do that.`}
          </Command.Empty>
        </Command.List>
        {replaces && chosen && <Ahead replaces={replaces} op={chosen} />}
        {!replaces && (prospect || here.before.length > 0) && <Reads here={here} prospect={prospect} />}
        {!replaces && <Hints />}
      </Command>
    </>
  );
}

/** What the strand would be given, before it is there; what is made before it in the same line; what Tab turns to. */
function Reads({ here: { adding, line, before, why, feeds }, prospect }: { here: Here; prospect: Prospect | null }) {
  const words = prospect ? adding.words(prospect) : [];
  const wrong = why ?? prospect?.why ?? null;
  return (
    <div
      role="status"
      aria-label="It would read"
      className="flex min-h-[26px] shrink-0 items-center gap-2 border-t border-line px-1 pt-1.5 text-[12px] leading-[17px] text-muted"
    >
      {wrong !== null ? (
        <span className="text-fault">{wrong}</span>
      ) : (
        <span className="flex min-w-0 grow flex-wrap gap-x-2.5">
          {before.length > 0 && <span>after {before.map(stepWords).join(', ')}:</span>}
          {line.name !== null && <span className="text-ink">{line.name} =</span>}
          {words.map(({ input, text }) => (
            <span key={input} className="max-w-full truncate">
              {input} <span className="text-ink">{text}</span>
            </span>
          ))}
          {feeds && <span className="text-ink">{outputRecord(feeds.output).label}</span>}
          {words.length === 0 && !feeds && 'Reads nothing yet.'}
        </span>
      )}
      {prospect !== null && prospect.choices > 1 && (
        <span className="shrink-0">
          <kbd>Tab</kbd>
        </span>
      )}
    </div>
  );
}

function Hints() {
  return (
    <div className="flex h-[22px] shrink-0 items-center gap-1 text-[11px] whitespace-nowrap text-muted">
      <kbd>Enter</kbd> add <kbd className="ml-0.5">Shift</kbd> splice <kbd className="ml-0.5">Ctrl</kbd> open{' '}
      <kbd className="ml-0.5">;</kbd> then
    </div>
  );
}

/** What would be let go and what would be wrong, before it is done. */
function Ahead({ replaces, op }: { replaces: Replacing; op: string }) {
  const { name } = replaces;
  const { lost, troubles } = useMemo(() => replaces.foresee(op), [replaces, op]);
  return (
    <div role="status" className="shrink-0 border-t border-line px-1 pt-1.5 text-[12px] leading-[17px] text-muted">
      {lost.length === 0 ? `Keeps all that ${name} has.` : `Lets go of ${inWords(lost)}.`}
      {troubles.slice(0, 2).map((t) => (
        <span key={t} className="block text-fault">
          {t}
        </span>
      ))}
      {troubles.length > 2 && (
        <span className="block text-fault">{troubles.length - 2} more of the sheet’s strands would fail.</span>
      )}
    </div>
  );
}

const inWords = (all: readonly string[]): string =>
  all.length < 2 ? all.join('') : `${all.slice(0, -1).join(', ')} and ${all[all.length - 1]}`;

function Found({ shown: { id, label, family, summary, motif }, typed }: { shown: Shown; typed: string }) {
  return (
    <>
      <OperatorPicture op={id} {...(motif ? { motif } : {})} className="h-7 w-10" />
      <span className="min-w-0 grow">
        <span className="flex items-baseline justify-between gap-2 leading-[17px]">
          <span className="font-medium">
            <Marked text={label} typed={typed} />
          </span>
          <span className="shrink-0 text-[12px] text-muted">{family}</span>
        </span>
        <span className="block truncate text-[12px] leading-[15px] text-muted" title={summary}>
          {summary}
        </span>
      </span>
    </>
  );
}
