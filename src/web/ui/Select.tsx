/** A choice among a few. */
import { getNonce } from 'get-nonce';
import { Check, ChevronDown } from 'lucide-react';
import { Select as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { leaveTyping } from './keys.js';

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

/** The styles that it adds are this page's own. */
const nonce = () => {
  const found = getNonce();
  return found ? { nonce: found } : {};
};

/** An item's value may not be empty; ids may. */
const keyOf = (id: string) => `=${id}`;

export function Select({ label, value, choices, onChoose, className = 'button', prefix, bare = false }: Props) {
  const chosen = choices.find((c) => c.id === value);
  return (
    <Radix.Root value={keyOf(value)} onValueChange={(key) => onChoose(key.slice(1))}>
      <Radix.Trigger className={className} aria-label={`${label}: ${chosen?.name ?? value}`}>
        {prefix}
        <span>{chosen?.name ?? value}</span>
        {!bare && <ChevronDown size={14} strokeWidth={1.5} className="text-muted" aria-hidden />}
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          className="menu"
          position="popper"
          align="start"
          sideOffset={4}
          collisionPadding={8}
          // Letters that choose an item are no keys of the bench.
          onKeyDown={(e) => e.stopPropagation()}
          onCloseAutoFocus={leaveTyping}
        >
          <Radix.Viewport {...nonce()}>
            {choices.map((c) => (
              <Radix.Item key={c.id} value={keyOf(c.id)} className="menu-item data-[state=checked]:font-medium">
                <span className="flex w-3 justify-center">
                  <Radix.ItemIndicator>
                    <Check size={12} strokeWidth={2} aria-hidden />
                  </Radix.ItemIndicator>
                </span>
                <Radix.ItemText>{c.name}</Radix.ItemText>
                {c.hint && <span className="ml-auto pl-4 text-[12px] text-muted">{c.hint}</span>}
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
