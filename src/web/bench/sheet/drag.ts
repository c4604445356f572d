/** A row is dragged by its handle: where it would come to lie, and what its end does. */
import { PointerSensor, useSensor, useSensors, type DragEndEvent, type DragMoveEvent } from '@dnd-kit/core';
import { useState } from 'react';
import { moveStrand } from '../../../core/effect/edits.js';
import { ROW, type Layout } from './layout.js';
import { useBench } from '../../context.js';

/** The rank in the sheet that a pointer's offset from a row stands for. @param from the row's rank now */
export function rankAt({ items, anchor }: Layout, id: string, from: number, delta: number): number {
  const middle = (anchor.get(id) ?? 0) + delta;
  const above = items.filter((i) => i.type === 'strand' && i.strand.id !== id && i.y + ROW / 2 < middle);
  const before = above[above.length - 1];
  if (before?.type !== 'strand') return 0;
  return before.rank + (before.rank < from ? 1 : 0);
}

export function useRowDrag(layout: Layout, onMoved: (id: string) => void) {
  const session = useBench();
  const [line, setLine] = useState<number | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  return {
    /** Where the line is drawn that says where it would lie; null while nothing is dragged. */
    line,
    handlers: {
      sensors,
      onDragMove: ({ active, delta }: DragMoveEvent) => setLine((layout.anchor.get(String(active.id)) ?? 0) + delta.y),
      onDragCancel: () => setLine(null),
      onDragEnd: ({ active, delta }: DragEndEvent) => {
        setLine(null);
        const id = String(active.id);
        const { effect } = session.store.getState();
        const from = effect.strands.findIndex((s) => s.id === id);
        const to = rankAt(layout, id, from, delta.y);
        session.documents.edit(`Move ${effect.strands[from]!.name}`, (draft) => moveStrand(draft, { id, to }));
        onMoved(id);
      },
    },
  };
}
