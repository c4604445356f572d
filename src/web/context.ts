/** The open bench, for the screens under it. */
import { createContext, useContext, useMemo } from 'react';
import { useStore } from 'zustand';
import type { Showing } from '../session/showing.js';
import type { Bench } from '../session/bench.js';
import type { BenchState } from '../session/state.js';

const Context = createContext<Bench | null>(null);
export const BenchProvider = Context.Provider;

export function useBench(): Bench {
  const session = useContext(Context);
  if (!session) throw new Error('outside a bench');
  return session;
}

/** Subscribes to one slice of the bench's state. */
export const useBenchState = <T>(select: (state: BenchState) => T): T => useStore(useBench().store, select);

/** Whose values the sheet and the dials show: those of the chosen prop. */
export function useShowing(): Showing {
  const variant = useBenchState((s) => s.variant);
  const overrides = useBenchState((s) => s.overrides);
  return useMemo(() => ({ variant, overrides }), [variant, overrides]);
}
