/** Everything that can be done on the bench, by name: the palette lists these; keys and menus do the same. */
import { strandsOf } from '../../../core/effect/schema.js';
import { PRIMITIVES } from '../../../core/scene/edits.js';
import { motifOf } from '../../../core/effect/motifs.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { bypass, duplicate, fold, moveBy, remove, section, swap, unfold } from '../../../session/actions.js';
import { addUse, group, unfoldUse } from '../../../session/motifs.js';
import { motifsAtHand } from '../../../session/motifLibrary.js';
import { fireNow, newTrigger, triggerInHand } from '../../../session/triggering.js';
import type { Bench } from '../../../session/bench.js';
import { addPrimitive, duplicate as duplicateProp, toGround } from '../../../session/standing.js';
import { chosenRun, propInHand, type BenchState, type SheetAsk } from '../../../session/state.js';
import { copyByMenu, cutByMenu, pasteByMenu } from '../sheet/clipboard.js';

export interface Command {
  readonly id: string;
  readonly title: string;
  readonly group: 'Strand' | 'Sheet' | 'Stage' | 'Time' | 'View' | 'Effect' | 'Go to';
  /** As keys do it, where they do. */
  readonly keys?: string;
  /** Other words by which it may be looked for. */
  readonly words?: readonly string[];
  /** It changes a document: a tab that follows has none of it. */
  readonly edits?: true;
  readonly run: () => unknown;
}

/** What a command may need beside the bench: where the page goes. */
export interface Ways {
  readonly goTo: (path: string) => void;
  readonly toggleOverview: () => void;
  readonly showSheet: () => void;
}

function strandCommands(session: Bench, state: BenchState, ways: Ways): Command[] {
  const ids = chosenRun(state);
  const { chosen } = state;
  if (ids.length === 0 || chosen === null) return [];
  const many = ids.length > 1;
  const what = many ? `the ${ids.length} chosen` : (strandsOf(state.effect).find((s) => s.id === chosen)?.name ?? '');
  const ask = (asked: SheetAsk) => () => {
    ways.showSheet();
    session.store.setState({ asked });
  };
  const edit = (id: string, title: string, keys: string, run: () => unknown): Command => ({
    ...{ id, title, keys, run },
    ...{ group: 'Strand', edits: true },
  });
  const plain = (id: string, title: string, words: readonly string[], run: () => unknown): Command => ({
    ...{ id, title, words, run },
    ...{ group: 'Strand', edits: true },
  });
  return [
    edit('duplicate', `Duplicate ${what}`, 'D', () => duplicate(session, ids)),
    edit('copy', `Copy ${what}`, 'Ctrl C', () => copyByMenu(session, ids)),
    edit('cut', `Cut ${what}`, 'Ctrl X', () => cutByMenu(session, ids)),
    edit('delete', `Delete ${what}`, 'Delete', () => remove(session, ids)),
    edit('bypass', `Bypass or use again ${what}`, 'B', () => bypass(session, ids)),
    edit('up', `Move ${what} up`, 'Alt ↑', () => moveBy(session, ids, -1)),
    edit('down', `Move ${what} down`, 'Alt ↓', () => moveBy(session, ids, 1)),
    edit('section', many ? `Make a section of ${what}` : `Begin a section at ${what}`, 'G', () => section(session, ids)),
    ...(many
      ? [
          edit('motif', `Make a motif of ${what}`, 'M', () => group(session, ids)),
          plain('fold run', `Make one formula of ${what}`, ['formula', 'fold'], () => fold(session, ids)),
        ]
      : [
          ...(strandsOf(state.effect).some((s) => s.id === chosen && operatorOf(s.op).literals.formula)
            ? [edit('unfold', `Unfold ${what} into strands`, 'U', () => unfold(session, chosen))]
            : []),
          ...(strandsOf(state.effect).some((s) => s.id === chosen && motifOf(state.effect, s))
            ? [edit('unfold motif', `Unfold ${what} here`, 'U', () => unfoldUse(session, chosen))]
            : []),
          edit('rename', `Rename ${what}`, 'R', ask('rename')),
          edit('replace', `Another operation for ${what}`, 'O', ask('replace')),
          edit('feed', `Feed ${what} into`, 'F', ask('feed')),
          edit('wrap', `Wrap ${what}`, 'W', ask('wrap')),
          {
            ...edit('help', `What ${what} does`, 'H', () => session.store.setState({ help: chosen })),
            words: ['help', 'explain'],
          },
          edit('swap', `Swap the first two inputs of ${what}`, 'S', () => swap(session, chosen)),
        ]),
    {
      ...{ id: 'peek', title: `Peek at ${what}`, group: 'Strand', keys: 'P' },
      run: () => session.frames.peekAt(chosen, true),
    },
  ];
}

function sheetCommands(session: Bench, state: BenchState, ways: Ways): Command[] {
  const { past, future } = state.history;
  const [undo, redo] = [past.at(-1), future[0]];
  const edit = (id: string, title: string, keys: string | null, run: () => unknown): Command => ({
    ...{ id, title, run },
    ...(keys === null ? {} : { keys }),
    ...{ group: 'Sheet', edits: true },
  });
  const trigger = triggerInHand(state);
  return [
    edit('trigger', 'Add a trigger', null, () => newTrigger(session)),
    ...(trigger ? [edit('fire', `Fire ${trigger.name}`, 'T', () => fireNow(session, trigger.id))] : []),
    ...motifsAtHand(state.effect, state.motifs).map((motif): Command => ({
      ...{ id: `use ${motif.id}`, title: `Use the motif ${motif.name}`, group: 'Sheet', edits: true, words: ['add', 'group'] },
      run: () => addUse(session, motif, state.chosen ?? strandsOf(state.effect).at(-1)?.id ?? null),
    })),
    edit('add', 'Add a strand', '/', () => {
      ways.showSheet();
      session.store.setState({ asked: 'add' });
    }),
    edit('paste', 'Paste strands', 'Ctrl V', () => pasteByMenu(session)),
    ...(undo ? [edit('undo', `Undo: ${undo.label}`, 'Ctrl Z', () => session.documents.undo())] : []),
    ...(redo ? [edit('redo', `Redo: ${redo.label}`, 'Ctrl Shift Z', () => session.documents.redo())] : []),
    ...(undo ? [edit('compare', 'Compare before and after the last step', 'C', () => session.documents.compare())] : []),
    ...state.effect.sections.map(({ title, first }): Command => {
      const folded = state.folded.has(first);
      return {
        ...{ id: `fold ${first}`, title: `${folded ? 'Unfold' : 'Fold'} ${title}`, group: 'Sheet' },
        run: () => session.choosing.fold(first),
      };
    }),
  ];
}

function stageCommands(session: Bench, state: BenchState): Command[] {
  const held = propInHand(state);
  return [
    ...PRIMITIVES.map((primitive): Command => ({
      ...{
        id: `put ${primitive.name}`,
        title: `Put a ${primitive.name.toLowerCase()} on the stage`,
        group: 'Stage',
        edits: true,
      },
      words: ['prop', 'primitive', 'new'],
      run: () => addPrimitive(session, primitive),
    })),
    ...(held
      ? ([
          {
            ...{ id: 'duplicate prop', title: `Duplicate the prop ${held.name}`, group: 'Stage', edits: true },
            run: () => duplicateProp(session, held.id),
          },
          {
            ...{ id: 'ground', title: `Set ${held.name} on the ground`, group: 'Stage', edits: true },
            run: () => toGround(session, held.id),
          },
          {
            ...{ id: 'frame', title: `Frame ${held.name}`, group: 'Stage', keys: 'F' },
            ...{ words: ['show', 'camera'], run: () => session.frames.frameProp(held.id) },
          },
        ] satisfies Command[])
      : []),
    ...state.stage.viewpoints.map((v): Command => ({
      ...{ id: `look ${v.id}`, title: `Viewpoint: ${v.name}`, group: 'Stage', words: ['look', 'camera'] },
      ...(v.id === state.viewpoint ? { keys: 'V' } : {}),
      run: () => session.frames.lookFrom(v.id),
    })),
  ];
}

function viewCommands(session: Bench, state: BenchState, ways: Ways): Command[] {
  const { clock } = session;
  const command = (group: Command['group'], id: string, title: string, keys: string | null, run: () => unknown): Command => ({
    ...{ id, title, group, run },
    ...(keys === null ? {} : { keys }),
  });
  const { effect } = state;
  return [
    command('View', 'overview', 'Overview, or back to the sheet', 'M', ways.toggleOverview),
    command('View', 'bare', 'Only the picture, or all of the bench', '\\', () =>
      session.store.setState((s) => ({ bare: !s.bare })),
    ),
    command('View', 'raw', 'Without bloom and tone curve, or with them', "'", () =>
      session.frames.setRaw(!session.store.getState().raw),
    ),
    command('View', 'end peek', 'The finished effect: end peeking', 'Esc', () => session.frames.endPeek()),
    command('Time', 'play', clock.playing ? 'Pause' : 'Play', 'Space', () => (clock.playing ? clock.pause() : clock.play())),
    command('Time', 'start', 'Go to the beginning', null, () => clock.set(0)),
    command('Time', 'back', 'Back one frame', null, () => clock.step(-1)),
    command('Time', 'on', 'On one frame', null, () => clock.step(1)),
    ...(effect.variants.length > 0
      ? [
          command('Effect', 'base', 'Show the base, no variant', null, () => session.choosing.variant(null)),
          ...effect.variants.map((v) =>
            command('Effect', `variant ${v.id}`, `Show the variant ${v.name}`, null, () => session.choosing.variant(v.id)),
          ),
        ]
      : []),
    command('Effect', 'export', 'Export', null, () => ways.goTo(`/effects/${effect.id}/export`)),
    command('Effect', 'library', 'Go to the Library', null, () => ways.goTo('/')),
  ];
}

/** How well a command answers to what is typed, 0..1: every word is in its title or among its words; titles go first. */
export function answers({ title, group, words = [] }: Command, typed: string): number {
  const wanted = typed.trim().toLowerCase();
  const name = title.toLowerCase();
  const among = (text: string) => wanted.split(/\s+/).every((word) => text.includes(word));
  if (name === wanted) return 1;
  if (name.startsWith(wanted)) return 0.9;
  if (name.includes(wanted)) return 0.8;
  if (among(name)) return 0.6;
  return among([name, group, ...words].join(' ').toLowerCase()) ? 0.4 : 0;
}

/** All that can be done as things stand, in the order in which it is listed where nothing is typed. */
export function commandsOf(session: Bench, ways: Ways): Command[] {
  const state = session.store.getState();
  const all = [
    ...strandCommands(session, state, ways),
    ...sheetCommands(session, state, ways),
    ...stageCommands(session, state),
    ...viewCommands(session, state, ways),
    ...strandsOf(state.effect).map((s): Command => ({
      ...{ id: `go ${s.id}`, title: s.name, group: 'Go to', words: [s.op] },
      run: () => session.choosing.only(s.id),
    })),
  ];
  return state.following ? all.filter((c) => !c.edits) : all;
}
