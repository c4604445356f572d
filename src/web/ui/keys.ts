/** Keys of what is shown above the bench. */
import type { KeyboardEvent } from 'react';

/** Letters and arrows are its own, and do nothing to the bench behind it; undo and its like still reach that. */
export const ownKeys = (event: KeyboardEvent): void => {
  if (!event.ctrlKey && !event.metaKey) event.stopPropagation();
};

/** What is closed gives the focus back late: where somebody is typing by then, it is theirs. */
export const leaveTyping = (event: Event): void => {
  if (document.activeElement?.matches('input, textarea')) event.preventDefault();
};

/** Whether what a key was pressed in is being typed in. */
export const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.matches('input, textarea') || target.isContentEditable);
