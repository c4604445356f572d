/** What opens from a button: a menu, as every menu here looks and behaves. */
import { DropdownMenu } from 'radix-ui';
import type { ComponentProps } from 'react';
import { leaveTyping, ownKeys } from './keys.js';

/** @param className more than the look of a menu: how wide it is at least */
export function MenuContent({ className = '', ...more }: ComponentProps<typeof DropdownMenu.Content>) {
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
      />
    </DropdownMenu.Portal>
  );
}
