/** The editor of a formula: one line, with the names of strands and functions offered, and what is wrong underlined. */
import { autocompletion, completionKeymap, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { linter, type Diagnostic } from '@codemirror/lint';
import { EditorState, Prec } from '@codemirror/state';
import { EditorView, keymap, tooltips } from '@codemirror/view';
import { getNonce } from 'get-nonce';
import { useEffect, useRef } from 'react';

export interface Wrong {
  readonly message: string;
  /** Counted from 0. */
  readonly at: number;
}

/** A name that a formula may use. */
export interface Word {
  readonly word: string;
  readonly kind: 'strand' | 'function' | 'number';
  /** What it is. */
  readonly about: string;
}

interface Props {
  readonly label: string;
  readonly shown: string;
  readonly words: () => readonly Word[];
  /** @returns what is wrong with a text; null where nothing is */
  readonly check: (text: string) => Wrong | null;
  /** Takes it over, where nothing is wrong. */
  readonly onWrite: (text: string) => Wrong | null;
  /** What is wrong with what was entered; null when that is mended or let go. */
  readonly onWrong: (wrong: Wrong | null) => void;
}

const LONGEST = 2000;

const LOOK = EditorView.theme({
  '&': { width: '100%', fontSize: '11.5px', backgroundColor: 'transparent' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { overflow: 'hidden', fontFamily: 'var(--font-mono)', lineHeight: '20px' },
  '.cm-content': { padding: '0', caretColor: 'var(--color-text)' },
  '.cm-line': { padding: '0 6px' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--color-edge)' },
  '.cm-lintRange-error': {
    backgroundImage: 'none',
    textDecoration: 'underline wavy var(--color-fault) 1px',
    textUnderlineOffset: '3px',
  },
  '.cm-tooltip': {
    backgroundColor: 'var(--color-panel)',
    border: '1px solid var(--color-edge)',
    borderRadius: '6px',
    overflow: 'hidden',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-mono)', fontSize: '11.5px', maxHeight: '190px' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '2px 8px', lineHeight: '20px' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--color-raised)',
    color: 'var(--color-text)',
  },
  '.cm-completionDetail': { color: 'var(--color-muted)', fontStyle: 'normal', fontFamily: 'var(--font-sans)' },
  '.cm-completionMatchedText': { textDecoration: 'underline', textUnderlineOffset: '2px' },
  '.cm-tooltip-lint': { fontFamily: 'var(--font-sans)', fontSize: '12px', color: 'var(--color-fault)' },
  '.cm-diagnostic-error': { borderLeft: 'none' },
});

function completion(words: () => readonly Word[]): (context: CompletionContext) => CompletionResult | null {
  return (context) => {
    const before = context.matchBefore(/[A-Za-z_]\w*/);
    if (!before && !context.explicit) return null;
    return {
      from: before?.from ?? context.pos,
      validFor: /^\w*$/,
      options: words().map(({ word, kind, about }) => ({
        label: word,
        detail: about,
        ...(kind === 'function' ? { apply: `${word}(` } : {}),
        boost: kind === 'strand' ? 1 : 0,
      })),
    };
  };
}

/** The word that a mistake is about. */
function underlined(text: string, { message, at }: Wrong): Diagnostic {
  const from = Math.min(at, Math.max(0, text.length - 1));
  const word = /^\w+/.exec(text.slice(from))?.[0].length ?? 1;
  return { from, to: Math.min(text.length, from + word), severity: 'error', message };
}

export default function FormulaField(props: Props) {
  const box = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView | null>(null);
  const now = useRef(props);
  now.current = props;
  useEffect(() => {
    /** What was entered and is not taken over. */
    let refused = false;
    const put = (view: EditorView, text: string) =>
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text }, selection: { anchor: 0 } });
    const commit = (view: EditorView) => {
      const text = view.state.doc.toString();
      if (text === now.current.shown) return true;
      const wrong = now.current.onWrite(text);
      refused = wrong !== null;
      now.current.onWrong(wrong);
      // The cursor goes to the character that is meant.
      if (wrong) view.dispatch({ selection: { anchor: Math.min(wrong.at, text.length) } });
      return true;
    };
    const letGo = (view: EditorView) => {
      refused = false;
      now.current.onWrong(null);
      put(view, now.current.shown);
      return true;
    };
    const nonce = getNonce();
    const view = new EditorView({
      parent: box.current!,
      state: EditorState.create({
        doc: now.current.shown,
        extensions: [
          history(),
          autocompletion({
            override: [completion(() => now.current.words())],
            icons: false,
            activateOnTypingDelay: 0,
          }),
          // The offered words have Enter and Escape first.
          Prec.high(keymap.of(completionKeymap)),
          keymap.of([{ key: 'Enter', run: commit }, { key: 'Escape', run: letGo }, ...historyKeymap, ...defaultKeymap]),
          EditorState.transactionFilter.of((tr) => (tr.newDoc.lines > 1 || tr.newDoc.length > LONGEST ? [] : tr)),
          linter((v) => {
            const text = v.state.doc.toString();
            const wrong = text === now.current.shown ? null : now.current.check(text);
            return wrong ? [underlined(text, wrong)] : [];
          }),
          tooltips({ parent: document.body }),
          LOOK,
          EditorView.contentAttributes.of({ 'aria-label': now.current.label, spellcheck: 'false' }),
          EditorView.domEventHandlers({ blur: (_event, v) => void (refused || commit(v)) }),
          EditorView.updateListener.of(({ docChanged }) => {
            if (!docChanged || !refused) return;
            refused = false;
            now.current.onWrong(null);
          }),
          ...(nonce ? [EditorView.cspNonce.of(nonce)] : []),
        ],
      }),
    });
    editor.current = view;
    return () => view.destroy();
  }, []);
  // What the file has changed to is shown, unless something is being typed.
  useEffect(() => {
    const view = editor.current;
    if (!view || view.hasFocus || view.state.doc.toString() === props.shown) return;
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: props.shown } });
  }, [props.shown]);
  return (
    <div
      ref={box}
      className="field flex w-full items-center focus-within:outline-2 focus-within:outline-wisp"
      // Keys that are typed are no keys of the row, nor of the bench.
      onKeyDown={(e) => e.stopPropagation()}
    />
  );
}
