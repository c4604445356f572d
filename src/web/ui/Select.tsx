/** A choice among a few, as a menu of radio items. */
import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';

export interface Choice {
  readonly id: string;
  readonly name: string;
  readonly hint?: string;
}

interface Props {
  readonly label: string;
  readonly value: string;
  readonly choices: readonly Choice[];
  readonly onChoose: (id: string) => void;
  readonly className?: string;
  /** Stands before the chosen name. */
  readonly prefix?: ReactNode;
  /** Leaves out the arrow, where several stand in a row. */
  readonly bare?: boolean;
}

export function Select({ label, value, choices, onChoose, className = 'button', prefix, bare = false }: Props) {
  const chosen = choices.find((c) => c.id === value);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className={className} aria-label={`${label}: ${chosen?.name ?? value}`}>
          {prefix}
          <span>{chosen?.name ?? value}</span>
          {!bare && <ChevronDown size={14} strokeWidth={1.5} className="text-muted" aria-hidden />}
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start" sideOffset={4} collisionPadding={8}>
          <DropdownMenu.RadioGroup value={value} onValueChange={onChoose}>
            {choices.map((c) => (
              <DropdownMenu.RadioItem key={c.id} value={c.id} className="menu-item data-[state=checked]:font-medium">
                <span className={`h-1.5 w-1.5 rounded-full ${c.id === value ? 'bg-ink' : ''}`} />
                <span>{c.name}</span>
                {c.hint && <span className="ml-auto pl-4 text-[12px] text-muted">{c.hint}</span>}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
