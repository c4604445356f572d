/** What opens from a button and stays until it is closed: a panel, as every panel here looks and behaves. */
import { Popover } from 'radix-ui';
import type { ComponentProps } from 'react';
import { Guarded } from './Guarded.js';
import { leaveTyping } from './keys.js';

/** @param className more than the look of a panel */
export function PopoverContent({ className = '', children, ...more }: ComponentProps<typeof Popover.Content>) {
  return (
    <Popover.Portal>
      <Popover.Content className={`menu ${className}`} collisionPadding={8} onCloseAutoFocus={leaveTyping} {...more}>
        <Guarded name={more['aria-label'] ?? 'This panel'}>{children}</Guarded>
      </Popover.Content>
    </Popover.Portal>
  );
}
