/** The stage's props: which is chosen, what each wears, and adding more. */
import { Copy, Eye, EyeOff, FolderInput, Lock, LockOpen, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { Fragment, useRef, useState } from 'react';
import { PRIMITIVES, deleteProp, dressProp, joinPart, propOf } from '../../core/scene/edits.js';
import { WHOLE, namedParts, partIn, partOf, pieceName, pieceOf } from '../../core/scene/pieces.js';
import type { Prop } from '../../core/scene/stage.js';
import { wear, whoWears, type Wearing } from '../../core/scene/wearing.js';
import { Select } from '../ui/Select.js';
import { addPrimitive, duplicate } from '../../session/standing.js';
import { propInHand } from '../../session/state.js';
import { useBench, useBenchState } from '../context.js';
import { MeshFileInput } from './MeshFile.js';
import { usePartNames } from './usePartNames.js';
import { PropNumbers } from './PropNumbers.js';
import { ownKeys } from '../ui/keys.js';
import { MenuContent } from '../ui/Menu.js';

const BARE = '-';
const ELSE = '+';
const REST = '=';

export function PropsPanel({ onFile }: { onFile: (files: readonly File[]) => void }) {
  const stage = useBenchState((s) => s.stage);
  const effect = useBenchState((s) => s.effect);
  const inHand = useBenchState(propInHand);
  const worn = new Map(whoWears(stage, effect).map((w) => [w.prop, w]));
  return (
    <div onKeyDown={ownKeys}>
      <div className="mb-1 flex items-center gap-2">
        <h2 className="head text-[14px] leading-5">Props</h2>
        <span className="truncate text-[12px] text-muted">
          {stage.props.length} on {stage.name}
        </span>
        <span className="grow" />
        <AddProp />
      </div>
      <ul className="scroll -mx-4 max-h-[224px] overflow-y-auto">
        {stage.props.map((prop) => (
          <Fragment key={prop.id}>
            <PropRow prop={prop} wearing={worn.get(prop.id)} inHand={prop === inHand} />
            {prop === inHand && <PartRows prop={prop} worn={worn} />}
          </Fragment>
        ))}
      </ul>
      {inHand && <PropNumbers prop={inHand} />}
      <div className="-mx-4 mt-3 border-t border-line px-4 pt-3">
        <MeshFile onFile={onFile} />
      </div>
    </div>
  );
}

interface RowProps {
  readonly prop: Prop;
  readonly wearing: Wearing | undefined;
}

function PropRow({ prop, wearing, inHand }: RowProps & { inHand: boolean }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const change = (label: string, recipe: (p: Prop) => void) =>
    session.documents.editStage(`${label} ${prop.name}`, (d) => recipe(propOf(d, prop.id)));
  const [Seen, Held] = [prop.visible ? Eye : EyeOff, prop.locked ? Lock : LockOpen];
  return (
    <li data-prop={prop.id} className={`group flex h-8 items-center gap-1 px-4 ${inHand ? 'bg-raised' : 'hover:bg-[#201c2a]'}`}>
      <button
        className="plain -ml-1"
        aria-label={prop.visible ? `Hide ${prop.name}` : `Show ${prop.name}`}
        onClick={() => change(prop.visible ? 'Hide' : 'Show', (p) => void (p.visible = !prop.visible))}
      >
        <Seen size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <PropName prop={prop} inHand={inHand} />
      <span className={inHand ? 'flex' : 'hidden group-focus-within:flex group-hover:flex'}>
        <button
          className="plain"
          aria-label={prop.locked ? `Unlock ${prop.name}` : `Lock ${prop.name}`}
          aria-pressed={prop.locked}
          title={prop.locked ? 'It cannot be moved' : 'It can be moved'}
          onClick={() => change(prop.locked ? 'Unlock' : 'Lock', (p) => void (p.locked = !prop.locked))}
        >
          <Held size={13} strokeWidth={1.5} aria-hidden />
        </button>
        <button
          className="plain"
          aria-label={`Duplicate ${prop.name}`}
          title="A copy beside it"
          onClick={() => duplicate(session, prop.id)}
        >
          <Copy size={13} strokeWidth={1.5} aria-hidden />
        </button>
        <button
          className="plain"
          aria-label={`Delete ${prop.name}`}
          title="Delete"
          onClick={() => session.documents.editStage(`Delete ${prop.name}`, (d) => deleteProp(d, { id: prop.id }))}
        >
          <Trash2 size={13} strokeWidth={1.5} aria-hidden />
        </button>
      </span>
      <OwnValues wearing={wearing?.effect === effect.id ? wearing : undefined} />
      <Wears prop={prop} id={prop.id} wearing={wearing} />
    </li>
  );
}

function OwnValues({ wearing }: Pick<RowProps, 'wearing'>) {
  const own = Object.keys(wearing?.overrides ?? {}).length;
  if (own === 0) return null;
  return (
    <span
      className="flex shrink-0 items-center gap-1 text-muted"
      title={`${own} of its dials ${own === 1 ? 'has' : 'have'} a value of its own`}
    >
      <span className="flex h-[9px] w-[9px] items-center justify-center rounded-full border border-muted" aria-hidden>
        <span className="h-[3px] w-[3px] rounded-full bg-ink" />
      </span>
      <span className="num">{own}</span>
      <span className="sr-only">values of its own</span>
    </span>
  );
}

/** The parts of the prop in hand, by what it is made of: each may wear something of its own. */
function PartRows({ prop, worn }: { prop: Prop; worn: ReadonlyMap<string, Wearing> }) {
  const { choosing } = useBench();
  const effect = useBenchState((s) => s.effect);
  const chosen = useBenchState((s) => s.prop);
  return usePartNames(prop).map(({ name, there }) => {
    const id = pieceOf(prop.id, name);
    const wearing = worn.get(id);
    const mine = wearing?.effect === effect.id;
    return (
      <li key={name} className="flex h-8 items-center gap-1 bg-raised pr-4 pl-10" aria-label={`Part ${name} of ${prop.name}`}>
        <button
          className={`min-w-0 grow truncate rounded-sm px-1 text-left ${there ? '' : 'text-caution'}`}
          aria-pressed={chosen === id}
          disabled={!mine}
          title={
            !there ? 'Its mesh has no part of this name' : mine ? 'Readings are taken on it, and its own values turned' : name
          }
          onClick={() => choosing.prop(id)}
        >
          {name}
        </button>
        <OwnValues wearing={mine ? wearing : undefined} />
        <Wears prop={prop} id={id} wearing={wearing} />
      </li>
    );
  });
}

/** Its name: pressed, the prop is taken in hand; pressed again, renamed. */
function PropName({ prop, inHand }: { prop: Prop; inHand: boolean }) {
  const { documents, choosing } = useBench();
  const [renaming, setRenaming] = useState(false);
  if (!renaming)
    return (
      <button
        className="min-w-0 grow truncate rounded-sm px-1 text-left font-medium"
        aria-pressed={inHand}
        title={inHand ? 'Rename' : 'Take it in hand'}
        onClick={() => (inHand ? setRenaming(true) : choosing.hand(prop.id))}
      >
        {prop.name}
      </button>
    );
  return (
    <input
      className="field h-6 min-w-0 grow px-1"
      aria-label={`Name of ${prop.name}`}
      autoFocus
      defaultValue={prop.name}
      maxLength={80}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={(e) => {
        const name = e.currentTarget.value.trim();
        if (name) documents.editStage(`Rename ${prop.name}`, (d) => void (propOf(d, prop.id).name = name));
        setRenaming(false);
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') setRenaming(false);
      }}
    />
  );
}

/** What a piece wears: this effect in one of its variants, another effect, or nothing. @param id of the piece */
function Wears({ prop, id, wearing }: RowProps & { id: string }) {
  const { documents, choosing } = useBench();
  const effect = useBenchState((s) => s.effect);
  const called = useBenchState((s) => pieceName(s.stage, id));
  const mine = wearing?.effect === effect.id;
  const named = partIn(id) !== WHOLE;
  const part = partOf(prop, partIn(id));
  const other = part !== undefined && part.effect !== null && part.effect !== effect.id && !mine;
  const asRest = named && !namedParts(prop).some((p) => p === part);
  const dress = (to: string) => {
    if (to === REST) return documents.editStage(`${called} as the rest`, (d) => joinPart(d, { id }));
    documents.editStage(to === BARE ? `Bare ${called}` : `Dress ${called}`, (d) =>
      to === BARE ? dressProp(d, { id, effect: null }) : wear(d, effect, { id, variant: to === '' ? null : to }),
    );
  };
  return (
    <Select
      label={`${called} wears`}
      className="chip chip-strand"
      bare
      value={mine ? (effect.variants.find((v) => v.id === wearing.variant)?.id ?? '') : other ? ELSE : asRest ? REST : BARE}
      choices={[
        { id: '', name: effect.variants.length > 0 ? 'Base' : effect.name },
        ...effect.variants,
        ...(other ? [{ id: ELSE, name: choosing.nameOf(part.effect!) }] : []),
        ...(named ? [{ id: REST, name: 'As the rest' }] : []),
        { id: BARE, name: 'Bare' },
      ]}
      onChoose={(to) => to !== ELSE && choosing.askFirst([id], () => dress(to))}
    />
  );
}

function AddProp() {
  const session = useBench();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="plain px-1.5 text-ink" aria-label="Add a prop">
          <Plus size={15} strokeWidth={1.5} aria-hidden />
          Add
        </button>
      </DropdownMenu.Trigger>
      <MenuContent align="end">
        {PRIMITIVES.map((primitive) => (
          <DropdownMenu.Item key={primitive.name} className="menu-item" onSelect={() => addPrimitive(session, primitive)}>
            {primitive.name}
          </DropdownMenu.Item>
        ))}
      </MenuContent>
    </DropdownMenu.Root>
  );
}

function MeshFile({ onFile }: { onFile: (files: readonly File[]) => void }) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <MeshFileInput input={file} onFile={onFile} />
      <button
        className="button"
        onClick={() => file.current?.click()}
        title="A file of glTF, OBJ or PLY; dropping one on the stage does the same"
      >
        <FolderInput size={14} strokeWidth={1.5} aria-hidden />A mesh of your own
      </button>
    </>
  );
}
