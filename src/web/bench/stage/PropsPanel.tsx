/** The stage's props: which is chosen, what each wears, and adding more. */
import { Copy, Eye, EyeOff, FolderInput, Lock, LockOpen, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useRef, useState } from 'react';
import { PRIMITIVES, addProp, deleteProp, dressProp, duplicateProp, freshPropId, propOf } from '../../../core/scene/edits.js';
import type { Prop } from '../../../core/scene/stage.js';
import { keepStandIn, wear, whoWears, type Wearing } from '../../../core/scene/wearing.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState } from '../context.js';

const BARE = '-';
const ELSE = '+';

export function PropsPanel({ onFile }: { onFile: (file: File) => void }) {
  const stage = useBenchState((s) => s.stage);
  const effect = useBenchState((s) => s.effect);
  const worn = new Map(whoWears(stage, effect).map((w) => [w.prop, w]));
  return (
    <div onKeyDown={(e) => e.stopPropagation()}>
      <div className="mb-2 flex items-center justify-between">
        <h2 className="head text-[14px] leading-5">Props</h2>
        <span className="num text-muted">{stage.props.length}</span>
      </div>
      <ul className="scroll -mx-2 max-h-[300px] overflow-y-auto">
        {stage.props.map((prop) => (
          <PropRow key={prop.id} prop={prop} wearing={worn.get(prop.id)} />
        ))}
      </ul>
      <div className="mt-2 flex gap-2 border-t border-line pt-3">
        <AddProp />
        <MeshFile onFile={onFile} />
      </div>
    </div>
  );
}

interface RowProps {
  readonly prop: Prop;
  readonly wearing: Wearing | undefined;
}

function PropRow({ prop, wearing }: RowProps) {
  const { documents, frames } = useBench();
  const stage = useBenchState((s) => s.stage);
  const effect = useBenchState((s) => s.effect);
  const chosen = useBenchState((s) => s.prop === prop.id);
  const change = (label: string, recipe: (p: Prop) => void) =>
    documents.editStage(`${label} ${prop.name}`, (d) => recipe(propOf(d, prop.id)));
  const duplicate = () => {
    const newId = freshPropId(stage, prop.name);
    const reach = frames.view?.scenery.reach(prop.id) ?? 0;
    documents.editStage(`Duplicate ${prop.name}`, (d) => {
      keepStandIn(d, effect);
      duplicateProp(d, { id: prop.id, newId, ...(reach > 0 ? { reach } : {}) });
    });
  };
  const [Seen, Held] = [prop.visible ? Eye : EyeOff, prop.locked ? Lock : LockOpen];
  return (
    <li data-prop={prop.id} className={`flex h-8 items-center gap-1 rounded-sm px-2 ${chosen ? 'bg-raised' : ''}`}>
      <button
        className="plain"
        aria-label={prop.visible ? `Hide ${prop.name}` : `Show ${prop.name}`}
        onClick={() => change(prop.visible ? 'Hide' : 'Show', (p) => void (p.visible = !prop.visible))}
      >
        <Seen size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <PropName prop={prop} chosen={chosen} mine={wearing?.effect === effect.id} />
      <Wears prop={prop} wearing={wearing} />
      <button
        className="plain"
        aria-label={prop.locked ? `Unlock ${prop.name}` : `Lock ${prop.name}`}
        aria-pressed={prop.locked}
        title={prop.locked ? 'It cannot be moved' : 'It can be moved'}
        onClick={() => change(prop.locked ? 'Unlock' : 'Lock', (p) => void (p.locked = !prop.locked))}
      >
        <Held size={13} strokeWidth={1.5} aria-hidden />
      </button>
      <button className="plain" aria-label={`Duplicate ${prop.name}`} onClick={duplicate}>
        <Copy size={13} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain"
        aria-label={`Delete ${prop.name}`}
        onClick={() => documents.editStage(`Delete ${prop.name}`, (d) => deleteProp(d, { id: prop.id }))}
      >
        <Trash2 size={13} strokeWidth={1.5} aria-hidden />
      </button>
    </li>
  );
}

/** Its name: pressed, it is chosen; pressed again, or where it wears another effect, renamed. */
function PropName({ prop, chosen, mine }: { prop: Prop; chosen: boolean; mine: boolean }) {
  const { documents, choosing } = useBench();
  const [renaming, setRenaming] = useState(false);
  if (!renaming)
    return (
      <button
        className="min-w-0 grow truncate rounded-sm px-1 text-left font-medium"
        aria-pressed={chosen}
        title={mine ? 'Choose it; again to rename it' : 'Rename'}
        onClick={() => (chosen || !mine ? setRenaming(true) : choosing.prop(prop.id))}
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

/** What it wears: this effect in one of its variants, another effect, or nothing. */
function Wears({ prop, wearing }: RowProps) {
  const { documents, choosing } = useBench();
  const effect = useBenchState((s) => s.effect);
  const mine = wearing?.effect === effect.id;
  const part = prop.parts[0];
  const other = part !== undefined && part.effect !== null && part.effect !== effect.id && !mine;
  const dress = (id: string) =>
    documents.editStage(id === BARE ? `Bare ${prop.name}` : `Dress ${prop.name}`, (d) =>
      id === BARE
        ? dressProp(d, { id: prop.id, effect: null })
        : wear(d, effect, { id: prop.id, variant: id === '' ? null : id }),
    );
  return (
    <Select
      label={`${prop.name} wears`}
      className="chip chip-strand"
      bare
      value={mine ? (effect.variants.find((v) => v.id === wearing.variant)?.id ?? '') : other ? ELSE : BARE}
      choices={[
        { id: '', name: effect.variants.length > 0 ? 'Base' : effect.name },
        ...effect.variants,
        ...(other ? [{ id: ELSE, name: choosing.nameOf(part.effect!) }] : []),
        { id: BARE, name: 'Bare' },
      ]}
      onChoose={(id) => id !== ELSE && choosing.askFirst([prop.id], () => dress(id))}
    />
  );
}

function AddProp() {
  const { documents, choosing, store } = useBench();
  const add = ({ name, source, rest }: (typeof PRIMITIVES)[number]) => {
    const { stage, effect } = store.getState();
    const id = freshPropId(stage, name);
    documents.editStage(`Add ${name.toLowerCase()}`, (draft) => {
      keepStandIn(draft, effect);
      addProp(draft, { id, name, source, place: [0, rest, 0.8], effect: effect.id });
    });
    choosing.prop(id);
  };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="button">
          <Plus size={14} strokeWidth={1.5} aria-hidden />
          Add a prop
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start" sideOffset={4}>
          {PRIMITIVES.map((primitive) => (
            <DropdownMenu.Item key={primitive.name} className="menu-item" onSelect={() => add(primitive)}>
              {primitive.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function MeshFile({ onFile }: { onFile: (file: File) => void }) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".glb,model/gltf-binary"
        className="hidden"
        aria-label="Mesh file"
        onChange={(e) => {
          const picked = e.currentTarget.files?.[0];
          if (picked) onFile(picked);
          e.currentTarget.value = '';
        }}
      />
      <button
        className="button"
        onClick={() => file.current?.click()}
        title="A binary glTF file, .glb; dropping one on the stage does the same"
      >
        <FolderInput size={14} strokeWidth={1.5} aria-hidden />A mesh of your own
      </button>
    </>
  );
}
