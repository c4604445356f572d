/** What opens from a button: a menu, as every menu here looks and behaves. */
import { DropdownMenu } from 'radix-ui';
import type { ComponentProps } from 'react';
import { Guarded } from './Guarded.js';
import { leaveTyping, ownKeys } from './keys.js';

/** @param className more than the look of a menu: how wide it is at least */
export function MenuContent({ className = '', children, ...more }: ComponentProps<typeof DropdownMenu.Content>) {
  return (
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        className={`menu ${className}`}
        align="start"
        sideOffset={4}
        collisionPadding={8}
        onKeyDown={ownKeys}
        onCloseAutoFocus={leaveTyping}
        {...more}
      >
        <Guarded name={more['aria-label'] ?? 'This menu'}>{children}</Guarded>
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  );
}
