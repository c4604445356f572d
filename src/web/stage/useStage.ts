/** The stage, and changing it, for the panels over the picture. */
import type { Stage } from '../../core/scene/stage.js';
import { useBench, useBenchState } from '../context.js';

/** Changes the stage; the steps of one drag are one. */
export function useStage() {
  const { documents } = useBench();
  const stage = useBenchState((s) => s.stage);
  return {
    stage,
    change: (label: string, recipe: (d: Stage) => void) => documents.editStage(label, recipe, `stage ${label}`),
    done: () => documents.endGesture(),
  };
}
