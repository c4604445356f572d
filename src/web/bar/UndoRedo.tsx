/** The last step, taken back or done again. */
import { Redo2, Undo2 } from 'lucide-react';
import { useBench, useBenchState } from '../context.js';

export function UndoRedo() {
  const session = useBench();
  const undo = useBenchState((s) => s.history.past[s.history.past.length - 1]?.label ?? null);
  const redo = useBenchState((s) => s.history.future[0]?.label ?? null);
  return (
    <>
      <button
        className="plain h-7 w-7"
        onClick={() => session.documents.undo()}
        disabled={undo === null}
        aria-label={undo === null ? 'Undo' : `Undo: ${undo}`}
        title={undo === null ? 'Nothing to undo' : `Undo: ${undo}  Ctrl+Z`}
      >
        <Undo2 size={16} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain h-7 w-7"
        onClick={() => session.documents.redo()}
        disabled={redo === null}
        aria-label={redo === null ? 'Redo' : `Redo: ${redo}`}
        title={redo === null ? 'Nothing to redo' : `Redo: ${redo}  Ctrl+Shift+Z`}
      >
        <Redo2 size={16} strokeWidth={1.5} aria-hidden />
      </button>
    </>
  );
}
