/** Shows another state on the stage for as long as it is pressed, by the pointer or by a key. */
import { Eye } from 'lucide-react';
import type { Both } from '../../../session/state.js';
import { useBench } from '../../context.js';

/** @param of the state; @param what its name */
export function HoldToSee({ of, what }: { of: () => Promise<Partial<Both> | null>; what: string }) {
  const { compiling, store } = useBench();
  const begin = () => {
    let over = false;
    const end = () => {
      over = true;
      for (const name of ENDS) window.removeEventListener(name, end);
      compiling.glimpse(null);
    };
    for (const name of ENDS) window.addEventListener(name, end);
    of().then(
      (state) => !over && state && compiling.glimpse(state),
      (error: Error) => store.setState({ notice: error.message }),
    );
  };
  return (
    <button
      className="plain"
      aria-label={`Hold to see ${what}`}
      title={`Hold to see ${what} on the stage`}
      onPointerDown={(e) => e.button === 0 && begin()}
      onKeyDown={(e) => {
        if (e.repeat || (e.key !== ' ' && e.key !== 'Enter')) return;
        e.preventDefault();
        begin();
      }}
    >
      <Eye size={14} strokeWidth={1.5} aria-hidden />
    </button>
  );
}
const ENDS = ['pointerup', 'pointercancel', 'keyup', 'blur'] as const;
