/** Shared dials: values that several effects of the library read. The library's value counts; each effect keeps the last it knew. */
import { setInput } from '../core/effect/edits.js';
import type { Effect } from '../core/effect/schema.js';
import type { BenchSession } from './bench.js';

export type SharedDial = Effect['shared'][number];

export async function loadShared(): Promise<SharedDial[]> {
  const response = await fetch('/api/shared');
  if (!response.ok) throw new Error('The shared dials are not to be had.');
  return (await response.json()) as SharedDial[];
}

/** @returns whether the library has it now */
export async function storeShared(dial: SharedDial): Promise<boolean> {
  const response = await fetch(`/api/shared/${encodeURIComponent(dial.id)}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(dial),
  }).catch(() => null);
  return response?.ok === true;
}

export function chooseShared(session: BenchSession, strand: string, input: string, id: string): void {
  const dial = session.store.getState().library.find((d) => d.id === id);
  session.edit('Choose a shared dial', (draft) => {
    if (dial && !draft.shared.some((d) => d.id === id)) draft.shared.push(dial);
    setInput(draft, { id: strand, name: input, input: { value: { text: id } } });
  });
}

/** What the library has counts: the effect's last known values follow it. @returns those that differ */
export function newerIn(effect: Effect, library: readonly SharedDial[]): SharedDial[] {
  return effect.shared.flatMap((own) => {
    const now = library.find((d) => d.id === own.id);
    return now && JSON.stringify(now.value) !== JSON.stringify(own.value) ? [now] : [];
  });
}

export function takeOver(draft: Effect, newer: readonly SharedDial[]): void {
  for (const dial of draft.shared) {
    const now = newer.find((d) => d.id === dial.id);
    if (now) dial.value = now.value;
  }
}

/** A shared dial of its own, named after the strand. */
export function newShared(session: BenchSession, strand: string, input: string): void {
  const { effect } = session.store.getState();
  const name = effect.strands.find((s) => (s as { id: string }).id === strand)?.name ?? 'Shared';
  const taken = new Set([...effect.shared, ...session.store.getState().library].map((s) => s.id));
  const base =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .slice(0, 40) || 'shared';
  let id = base;
  for (let k = 2; taken.has(id); k++) id = `${base}-${k}`;
  const dial: SharedDial = { id, name, value: 1 };
  session.edit('Add a shared dial', (draft) => {
    draft.shared.push(dial);
    setInput(draft, { id: strand, name: input, input: { value: { text: id } } });
  });
  session.publishShared(dial);
}
