/** Adding a strand: a few letters and Enter. */
import { Command } from 'cmdk';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { OPERATORS } from '../../../core/operators/catalogue.js';
import type { OperatorRecord } from '../../../core/operators/record.js';
import type { Replacing } from '../../../session/replacing.js';
import { PREVIEW_HEIGHT, PREVIEW_WIDTH, previewOf } from './preview.js';

export type AddHow = 'row' | 'splice' | 'inputs';

interface Props {
  readonly y: number;
  /** What it would do to put an operation in a strand's place, where that is what is asked for. */
  readonly replaces?: Replacing;
  readonly onAdd: (op: string, how: AddHow) => void;
  readonly onClose: () => void;
}

/** Best first: the name itself, a name that begins so, a name or keyword that contains it, the sentence. */
export function findOperators(typed: string): OperatorRecord[] {
  const words = typed.trim().toLowerCase();
  if (words === '') return [...OPERATORS];
  const score = (o: OperatorRecord) => {
    const label = o.label.toLowerCase();
    if (label === words || o.id === words) return 0;
    if (label.startsWith(words)) return 1;
    if (label.includes(words)) return 2;
    if (o.keywords?.some((k) => k.startsWith(words))) return 3;
    if (o.family.toLowerCase().startsWith(words)) return 4;
    return o.summary.toLowerCase().includes(words) ? 5 : 9;
  };
  return OPERATORS.map((o, k) => ({ o, k, s: score(o) }))
    .filter(({ s }) => s < 9)
    .sort((a, b) => a.s - b.s || a.k - b.k)
    .map(({ o }) => o);
}

function Preview({ op }: { op: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => canvas.current!.getContext('2d')!.putImageData(previewOf(op), 0, 0), [op]);
  return (
    <canvas
      ref={canvas}
      width={PREVIEW_WIDTH}
      height={PREVIEW_HEIGHT}
      className="h-7 w-10 shrink-0 rounded-sm border border-line"
      aria-hidden
    />
  );
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

export function Picker({ y, replaces, onAdd, onClose }: Props) {
  const [typed, setTyped] = useState('');
  const found = useMemo(() => findOperators(typed), [typed]);
  const [gone, setGone] = useState<string | null>(null);
  // The best, until another one of those that are found is gone to: told in the same render as they are, so that it is seen.
  const chosen = found.some((o) => o.id === gone) ? gone! : (found[0]?.id ?? '');
  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onClose();
    else if (event.key === 'Tab' && chosen) onAdd(chosen, 'inputs');
    else if (event.key === 'Enter' && event.shiftKey && chosen) onAdd(chosen, 'splice');
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
        onValueChange={setGone}
        onKeyDown={onKeyDown}
        vimBindings={false}
      >
        <label className="flex h-7 shrink-0 items-center rounded-sm border-2 border-wisp bg-base px-2">
          <span className="num mr-0.5 text-muted">/</span>
          <Command.Input
            autoFocus
            className="num min-w-0 grow bg-transparent text-[12px] outline-none"
            value={typed}
            onValueChange={(text) => {
              setTyped(text.replace(/^\//, ''));
              setGone(null);
            }}
            onBlur={(e) => {
              if (!e.currentTarget.closest('[role="dialog"]')?.contains(e.relatedTarget as Node)) onClose();
            }}
          />
          <span className="ml-2 shrink-0 text-[12px] text-muted">{found.length} found</span>
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
                onAdd(o.id, e.shiftKey ? 'splice' : 'row');
              }}
              onSelect={() => onAdd(o.id, 'row')}
            >
              <Found operator={o} typed={typed} />
            </Command.Item>
          ))}
          <Command.Empty className="px-2 py-3 text-muted">Nothing is called “{typed}”.</Command.Empty>
        </Command.List>
        {replaces ? chosen && <Ahead replaces={replaces} op={chosen} /> : <Hints />}
      </Command>
    </>
  );
}

function Hints() {
  return (
    <div className="flex h-[22px] shrink-0 items-center gap-1 border-t border-line pt-1.5 text-[12px] text-muted">
      <kbd>Enter</kbd> add <kbd className="ml-1 whitespace-nowrap">Shift Enter</kbd> splice <kbd className="ml-1">Tab</kbd> inputs
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

function Found({ operator: { id, label, family, summary }, typed }: { operator: OperatorRecord; typed: string }) {
  return (
    <>
      <Preview op={id} />
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
