/** Which variant the chosen prop wears, and naming or deleting it. */
import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { deleteVariant, renameVariant, takeValues } from '../../core/effect/edits.js';
import { useBench, useBenchState } from '../context.js';
import { MenuContent } from '../ui/Menu.js';

export function VariantMenu() {
  const session = useBench();
  const variants = useBenchState((s) => s.effect.variants);
  const variant = useBenchState((s) => s.variant);
  const [renaming, setRenaming] = useState(false);
  const shown = variants.find((v) => v.id === variant);
  if (renaming && shown)
    return (
      <input
        className="field h-7 w-[160px] px-2"
        aria-label={`Name of the variant ${shown.name}`}
        autoFocus
        defaultValue={shown.name}
        maxLength={80}
        onFocus={(e) => e.currentTarget.select()}
        onBlur={(e) => {
          const name = e.currentTarget.value;
          setRenaming(false);
          session.documents.edit(`Rename the variant ${shown.name}`, (draft) => renameVariant(draft, { id: shown.id, name }));
        }}
        onKeyDown={(e) => {
          if (e.key === 'Escape') e.currentTarget.value = shown.name;
          if (e.key === 'Enter' || e.key === 'Escape') e.currentTarget.blur();
        }}
      />
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="button" aria-label={`Variant: ${shown?.name ?? 'Base'}`}>
          <span className="text-muted">Variant</span>
          <span>{shown?.name ?? 'Base'}</span>
          <ChevronDown size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
        </button>
      </DropdownMenu.Trigger>
      <MenuContent onCloseAutoFocus={(e) => renaming && e.preventDefault()}>
        <DropdownMenu.RadioGroup value={variant ?? ''} onValueChange={(id) => session.choosing.variant(id === '' ? null : id)}>
          {[{ id: '', name: 'Base' }, ...variants].map((v) => (
            <DropdownMenu.RadioItem key={v.id} value={v.id} className="menu-item data-[state=checked]:font-medium">
              <span className={`h-1.5 w-1.5 rounded-full ${v.id === (variant ?? '') ? 'bg-ink' : ''}`} />
              {v.name}
            </DropdownMenu.RadioItem>
          ))}
        </DropdownMenu.RadioGroup>
        <GiveValues shown={shown ?? null} />
        {shown && (
          <>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item className="menu-item" onSelect={() => setRenaming(true)}>
              Rename {shown.name}
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className="menu-item"
              onSelect={() =>
                session.documents.edit(`Delete the variant ${shown.name}`, (draft) => deleteVariant(draft, { id: shown.id }))
              }
            >
              Delete {shown.name}
            </DropdownMenu.Item>
          </>
        )}
      </MenuContent>
    </DropdownMenu.Root>
  );
}

const BASE = { id: null, name: 'Base' };

/** Gives the variant that is shown the values of another. */
function GiveValues({ shown }: { shown: { readonly id: string; readonly name: string } | null }) {
  const session = useBench();
  const variants = useBenchState((s) => s.effect.variants);
  if (variants.length === 0) return null;
  const to = shown ?? BASE;
  const give = (from: { id: string | null; name: string }) =>
    session.documents.edit(`Give ${to.name} the values of ${from.name}`, (draft) =>
      takeValues(draft, { to: to.id, from: from.id }),
    );
  return (
    <>
      <DropdownMenu.Separator className="my-1 h-px bg-line" />
      <DropdownMenu.Label className="menu-label">Give {to.name} the values of</DropdownMenu.Label>
      {[BASE, ...variants]
        .filter((v) => v.id !== to.id)
        .map((v) => (
          <DropdownMenu.Item key={v.id ?? ''} className="menu-item" onSelect={() => give(v)}>
            {v.name}
          </DropdownMenu.Item>
        ))}
    </>
  );
}
