/** Adding a strand: a few letters and Enter. */
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { OPERATORS } from '../../../core/operators/catalogue.js';
import type { OperatorRecord } from '../../../core/operators/record.js';
import { PREVIEW_HEIGHT, PREVIEW_WIDTH, previewOf } from './preview.js';

export type AddHow = 'row' | 'splice' | 'inputs';

interface Props {
  readonly y: number;
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

export function Picker({ y, onAdd, onClose }: Props) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(0);
  const found = useMemo(() => findOperators(typed), [typed]);
  const list = useRef<HTMLUListElement>(null);
  useEffect(() => setAt(0), [typed]);
  useEffect(() => {
    list.current?.children[at]?.scrollIntoView({ block: 'nearest' });
  }, [at]);
  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onClose();
    else if (event.key === 'ArrowDown') setAt((k) => Math.min(found.length - 1, k + 1));
    else if (event.key === 'ArrowUp') setAt((k) => Math.max(0, k - 1));
    else if (event.key === 'Enter' || event.key === 'Tab') {
      const op = found[at];
      if (op) onAdd(op.id, event.key === 'Tab' ? 'inputs' : event.shiftKey ? 'splice' : 'row');
    } else return;
    event.preventDefault();
  };
  return (
    <>
      <span className="absolute left-11 h-px w-28 bg-ink" style={{ top: y }} aria-hidden />
      <div
        className="absolute left-[156px] z-20 flex max-h-[302px] w-[292px] flex-col rounded-md border border-edge bg-panel p-2"
        style={{ top: y + 1 }}
        role="dialog"
        aria-label="Add a strand"
      >
        <label className="flex h-7 shrink-0 items-center rounded-sm border-2 border-wisp bg-base px-2">
          <span className="num mr-0.5 text-muted">/</span>
          <input
            autoFocus
            className="num min-w-0 grow bg-transparent text-[12px] outline-none"
            aria-label="Operation to add"
            role="combobox"
            aria-expanded="true"
            aria-controls="picker-list"
            aria-activedescendant={found[at] ? `picker-${found[at].id}` : undefined}
            spellCheck={false}
            value={typed}
            onChange={(e) => setTyped(e.currentTarget.value.replace(/^\//, ''))}
            onKeyDown={onKeyDown}
            onBlur={(e) => {
              if (!e.currentTarget.closest('[role="dialog"]')?.contains(e.relatedTarget as Node)) onClose();
            }}
          />
          <span className="ml-2 shrink-0 text-[12px] text-muted">{found.length} found</span>
        </label>
        <ul ref={list} id="picker-list" role="listbox" aria-label="Operations" className="scroll my-1 grow overflow-y-auto">
          {found.map((o, k) => (
            <li
              key={o.id}
              id={`picker-${o.id}`}
              role="option"
              aria-selected={k === at}
              className={`flex h-[37px] items-center gap-2.5 rounded-sm px-1.5 ${k === at ? 'bg-raised shadow-[inset_0_0_0_1px_var(--color-edge)]' : ''}`}
              onPointerDown={(e) => {
                e.preventDefault();
                onAdd(o.id, e.shiftKey ? 'splice' : 'row');
              }}
              onPointerMove={() => setAt(k)}
            >
              <Preview op={o.id} />
              <span className="min-w-0 grow">
                <span className="flex items-baseline justify-between gap-2 leading-[17px]">
                  <span className="font-medium">
                    <Marked text={o.label} typed={typed} />
                  </span>
                  <span className="shrink-0 text-[12px] text-muted">{o.family}</span>
                </span>
                <span className="block truncate text-[12px] leading-[15px] text-muted" title={o.summary}>
                  {o.summary}
                </span>
              </span>
            </li>
          ))}
          {found.length === 0 && <li className="px-2 py-3 text-muted">Nothing is called “{typed}”.</li>}
        </ul>
        <div className="flex h-[22px] shrink-0 items-center gap-1 border-t border-line pt-1.5 text-[12px] text-muted">
          <kbd>Enter</kbd> add <kbd className="ml-1 whitespace-nowrap">Shift Enter</kbd> splice <kbd className="ml-1">Tab</kbd>{' '}
          inputs
        </div>
      </div>
    </>
  );
}
