/** Text that is being typed over another: taken when it is left or Enter is pressed, let be on Escape. */
import { useState, type ChangeEvent, type KeyboardEvent } from 'react';

type Field = HTMLInputElement | HTMLTextAreaElement;

/** @param take given only what differs from what was there */
export function useTyped(was: string, take: (text: string) => void) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed !== was) take(typed);
    setTyped(null);
  };
  return {
    /** What has been typed; null while nothing has. */
    typed,
    field: {
      value: typed ?? was,
      onChange: (e: ChangeEvent<Field>) => setTyped(e.currentTarget.value),
      onBlur: keep,
      onKeyDown: (e: KeyboardEvent<Field>) => {
        // Enter breaks a line where there are several.
        if (e.key === 'Enter' && e.currentTarget.tagName === 'INPUT') keep();
        if (e.key !== 'Escape' || typed === null) return;
        e.stopPropagation();
        setTyped(null);
      },
    },
  };
}
