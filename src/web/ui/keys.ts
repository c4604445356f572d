/** Keys of what is shown above the bench. */
import type { KeyboardEvent } from 'react';

/** Letters and arrows are its own, and do nothing to the bench behind it; undo and its like still reach that. */
export const ownKeys = (event: KeyboardEvent): void => {
  if (!event.ctrlKey && !event.metaKey) event.stopPropagation();
};
