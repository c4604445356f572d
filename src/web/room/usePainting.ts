/** One slice of what is known of painting. */
import { useStore } from 'zustand';
import type { PaintingState } from '../../session/paintingState.js';
import { useBench } from '../context.js';

export const usePainting = <T>(select: (state: PaintingState) => T): T => useStore(useBench().painting.store, select);
