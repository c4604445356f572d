/** Paint put on a prop: its file, the picture, and the stage's word of it. */
import type { Paint } from '../core/paint/paint.js';
import { paintProp } from '../core/scene/edits.js';
import type { Stage } from '../core/scene/stage.js';
import type { Documents } from './documents.js';
import type { Frames } from './frames.js';
import { keepPaint } from './paints.js';
import type { BenchStore } from './state.js';

interface PutPorts {
  readonly store: BenchStore;
  readonly documents: Documents;
  readonly frames: Frames;
}

interface Put {
  readonly prop: string;
  readonly paint: Paint;
  readonly label: string;
  /** What else is done to the stage in the same step. */
  readonly also?: (draft: Stage) => void;
  /** Told the sum of its file before the stage is changed. */
  readonly onSum?: (sum: string) => void;
}

/** Writes paint to its file and says so in the stage, in one step; nothing where the prop has gone meanwhile. */
export async function putOn({ store, documents, frames }: PutPorts, { prop, paint, label, also, onSum }: Put): Promise<void> {
  const nameOf = () => store.getState().stage.props.find((p) => p.id === prop)?.name;
  const asset = await keepPaint(paint, nameOf() ?? 'A prop');
  const name = nameOf();
  if (name === undefined) return;
  onSum?.(asset.sha256);
  frames.view?.providePaint(asset.sha256, paint);
  documents.editStage(`${label}: ${name}`, (draft) => {
    also?.(draft);
    paintProp(draft, { id: prop, asset });
  });
}
