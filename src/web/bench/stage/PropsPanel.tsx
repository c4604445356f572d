/** The stage's props: which is chosen, what each wears, and adding more. */
import { Copy, Eye, EyeOff, FolderInput, Lock, LockOpen, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useRef, useState } from 'react';
import { PRIMITIVES, addProp, deleteProp, dressProp, duplicateProp, freshPropId, propOf } from '../../../core/scene/edits.js';
import { keepStandIn, wear, whoWears } from '../../../core/scene/wearing.js';
import { Select } from '../../ui/Select.js';
import { useBench, useBenchState } from '../context.js';

const BARE = '-';
const ELSE = '+';

export function PropsPanel({ onFile }: { onFile: (file: File) => void }) {
  const session = useBench();
  const stage = useBenchState((s) => s.stage);
  const effect = useBenchState((s) => s.effect);
  const chosen = useBenchState((s) => s.prop);
  const [renaming, setRenaming] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const worn = new Map(whoWears(stage, effect).map((w) => [w.prop, w]));
  const add = (index: number) => {
    const { name, source, rest } = PRIMITIVES[index]!;
    const id = freshPropId(stage, name);
    session.documents.editStage(`Add ${name.toLowerCase()}`, (draft) => {
      keepStandIn(draft, effect);
      addProp(draft, { id, name, source, place: [0, rest, 0.8], effect: effect.id });
    });
    session.choosing.prop(id);
  };
  return (
    <div onKeyDown={(e) => e.stopPropagation()}>
      <div className="mb-2 flex items-center justify-between">
        <h2 className="head text-[14px] leading-5">Props</h2>
        <span className="num text-muted">{stage.props.length}</span>
      </div>
      <ul className="scroll -mx-2 max-h-[300px] overflow-y-auto">
        {stage.props.map((prop) => {
          const wearing = worn.get(prop.id);
          const mine = wearing?.effect === effect.id;
          const part = prop.parts[0];
          const other = part !== undefined && part.effect !== null && part.effect !== effect.id && !mine;
          const value = mine ? (effect.variants.find((v) => v.id === wearing.variant)?.id ?? '') : other ? ELSE : BARE;
          return (
            <li
              key={prop.id}
              data-prop={prop.id}
              className={`flex h-8 items-center gap-1 rounded-sm px-2 ${prop.id === chosen ? 'bg-raised' : ''}`}
            >
              <button
                className="plain"
                aria-label={prop.visible ? `Hide ${prop.name}` : `Show ${prop.name}`}
                onClick={() =>
                  session.documents.editStage(
                    `${prop.visible ? 'Hide' : 'Show'} ${prop.name}`,
                    (d) => void (propOf(d, prop.id).visible = !prop.visible),
                  )
                }
              >
                {prop.visible ? (
                  <Eye size={14} strokeWidth={1.5} aria-hidden />
                ) : (
                  <EyeOff size={14} strokeWidth={1.5} aria-hidden />
                )}
              </button>
              {renaming === prop.id ? (
                <input
                  className="field h-6 min-w-0 grow px-1"
                  aria-label={`Name of ${prop.name}`}
                  autoFocus
                  defaultValue={prop.name}
                  maxLength={80}
                  onFocus={(e) => e.currentTarget.select()}
                  onBlur={(e) => {
                    const name = e.currentTarget.value.trim();
                    if (name) session.documents.editStage(`Rename ${prop.name}`, (d) => void (propOf(d, prop.id).name = name));
                    setRenaming(null);
                  }}
                  onKeyDown={(e) => {
                    if (e.key === 'Enter') e.currentTarget.blur();
                    if (e.key === 'Escape') setRenaming(null);
                  }}
                />
              ) : (
                <button
                  className="min-w-0 grow truncate rounded-sm px-1 text-left font-medium"
                  aria-pressed={prop.id === chosen}
                  title={mine ? 'Choose it; again to rename it' : 'Rename'}
                  onClick={() => (prop.id === chosen || !mine ? setRenaming(prop.id) : session.choosing.prop(prop.id))}
                >
                  {prop.name}
                </button>
              )}
              <Select
                label={`${prop.name} wears`}
                className="chip chip-strand"
                bare
                value={value}
                choices={[
                  { id: '', name: effect.variants.length > 0 ? 'Base' : effect.name },
                  ...effect.variants,
                  ...(other ? [{ id: ELSE, name: session.choosing.nameOf(part.effect!) }] : []),
                  { id: BARE, name: 'Bare' },
                ]}
                onChoose={(id) => {
                  if (id === ELSE) return;
                  session.choosing.askFirst([prop.id], () =>
                    session.documents.editStage(id === BARE ? `Bare ${prop.name}` : `Dress ${prop.name}`, (d) =>
                      id === BARE
                        ? dressProp(d, { id: prop.id, effect: null })
                        : wear(d, effect, { id: prop.id, variant: id === '' ? null : id }),
                    ),
                  );
                }}
              />
              <button
                className="plain"
                aria-label={prop.locked ? `Unlock ${prop.name}` : `Lock ${prop.name}`}
                aria-pressed={prop.locked}
                title={prop.locked ? 'It cannot be moved' : 'It can be moved'}
                onClick={() =>
                  session.documents.editStage(
                    `${prop.locked ? 'Unlock' : 'Lock'} ${prop.name}`,
                    (d) => void (propOf(d, prop.id).locked = !prop.locked),
                  )
                }
              >
                {prop.locked ? (
                  <Lock size={13} strokeWidth={1.5} aria-hidden />
                ) : (
                  <LockOpen size={13} strokeWidth={1.5} aria-hidden />
                )}
              </button>
              <button
                className="plain"
                aria-label={`Duplicate ${prop.name}`}
                onClick={() => {
                  const newId = freshPropId(stage, prop.name);
                  const reach = session.frames.view?.scenery.reach(prop.id) ?? 0;
                  session.documents.editStage(`Duplicate ${prop.name}`, (d) => {
                    keepStandIn(d, effect);
                    duplicateProp(d, { id: prop.id, newId, ...(reach > 0 ? { reach } : {}) });
                  });
                }}
              >
                <Copy size={13} strokeWidth={1.5} aria-hidden />
              </button>
              <button
                className="plain"
                aria-label={`Delete ${prop.name}`}
                onClick={() => session.documents.editStage(`Delete ${prop.name}`, (d) => deleteProp(d, { id: prop.id }))}
              >
                <Trash2 size={13} strokeWidth={1.5} aria-hidden />
              </button>
            </li>
          );
        })}
      </ul>
      <div className="mt-2 flex gap-2 border-t border-line pt-3">
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button className="button">
              <Plus size={14} strokeWidth={1.5} aria-hidden />
              Add a prop
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="menu" align="start" sideOffset={4}>
              {PRIMITIVES.map(({ name }, k) => (
                <DropdownMenu.Item key={name} className="menu-item" onSelect={() => add(k)}>
                  {name}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
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
      </div>
    </div>
  );
}
