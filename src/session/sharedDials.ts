/** Shared dials: values that several effects of the library read. The library's value counts; each effect keeps the last it knew. */
import { produce } from 'immer';
import { setInput } from '../core/effect/edits.js';
import { isColour, type Effect } from '../core/effect/schema.js';
import type { Documents } from './documents.js';
import type { BenchStore, SharedDial } from './state.js';

/** The library is told once things have come to rest. */
const SETTLE_MS = 200;

/** As the library has it. The tag says what it was then. */
type Tagged = SharedDial & { readonly tag?: string };

async function loadTagged(): Promise<Tagged[]> {
  const response = await fetch('/api/shared');
  if (!response.ok) throw new Error('The shared dials are not to be had.');
  return (await response.json()) as Tagged[];
}

const untagged = ({ id, name, value }: Tagged): SharedDial => ({ id, name, value });

export const loadShared = async (): Promise<SharedDial[]> => (await loadTagged()).map(untagged);

const same = (a: SharedDial | undefined, b: SharedDial) =>
  a?.name === b.name && JSON.stringify(a.value) === JSON.stringify(b.value);

/** What the library has counts: the effect's last known names and values follow it. @returns those that differ */
function newerIn(effect: Effect, library: readonly SharedDial[]): SharedDial[] {
  return effect.shared.flatMap((own) => {
    const now = library.find((d) => d.id === own.id);
    return now && !same(now, own) ? [now] : [];
  });
}

/** A dial's value in few words. */
function wordsOf({ value }: SharedDial): string {
  if (isColour(value)) return `another colour of intensity ${Number(value.intensity.toPrecision(4))}`;
  return [value]
    .flat()
    .map((v) => (typeof v === 'number' ? Number(v.toPrecision(4)) : 'as it is'))
    .join(', ');
}

export class SharedDials {
  /** Those that wait to be told to the library. */
  private readonly publishing = new Map<string, ReturnType<typeof setTimeout>>();
  /** What the library's were when they were last seen. */
  private readonly tags = new Map<string, string | undefined>();

  constructor(
    private readonly store: BenchStore,
    private readonly documents: Documents,
  ) {}

  /** Turns one: here at once, and for every effect of the library that reads it. */
  turn(id: string, value: SharedDial['value']): void {
    this.documents.edit(
      'Turn a shared dial',
      (draft) => {
        const dial = draft.shared.find((d) => d.id === id);
        if (dial) dial.value = value;
      },
      `shared ${id}`,
    );
  }

  /** Another name, for every effect that reads it. */
  rename(id: string, name: string): void {
    const trimmed = name.trim().slice(0, 80);
    if (!trimmed) return;
    this.documents.edit('Rename a shared dial', (draft) => {
      const dial = draft.shared.find((d) => d.id === id);
      if (dial) dial.name = trimmed;
    });
  }

  choose(strand: string, input: string, id: string): void {
    const dial = this.store.getState().library.find((d) => d.id === id);
    this.documents.edit('Choose a shared dial', (draft) => {
      if (dial && !draft.shared.some((d) => d.id === id)) draft.shared.push(dial);
      setInput(draft, { id: strand, name: input, input: { value: { text: id } } });
    });
  }

  /** A new one, named after the strand. */
  add(strand: string, input: string): void {
    const { effect, library } = this.store.getState();
    const name = effect.strands.find((s) => (s as { id: string }).id === strand)?.name ?? 'Shared';
    const taken = new Set([...effect.shared, ...library].map((s) => s.id));
    const base =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .slice(0, 40) || 'shared';
    let id = base;
    for (let k = 2; taken.has(id); k++) id = `${base}-${k}`;
    const dial: SharedDial = { id, name, value: 1 };
    this.documents.edit('Add a shared dial', (draft) => {
      draft.shared.push(dial);
      setInput(draft, { id: strand, name: input, input: { value: { text: id } } });
    });
    this.publish(dial);
  }

  private publish(dial: SharedDial): void {
    const { library } = this.store.getState();
    this.store.setState({ library: [...library.filter((d) => d.id !== dial.id), dial] });
    const waiting = this.publishing.get(dial.id);
    if (waiting) clearTimeout(waiting);
    this.publishing.set(
      dial.id,
      setTimeout(() => {
        this.publishing.delete(dial.id);
        void this.send(dial);
      }, SETTLE_MS),
    );
  }

  private async send(dial: SharedDial): Promise<void> {
    const tag = this.tags.get(dial.id);
    const seen: Record<string, string> = tag ? { 'If-Match': tag } : this.tags.has(dial.id) ? {} : { 'If-None-Match': '*' };
    const response = await fetch(`/api/shared/${encodeURIComponent(dial.id)}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', ...seen },
      body: JSON.stringify(dial),
    }).catch(() => null);
    const said = (await response?.json().catch(() => null)) as { tag?: string; dial?: Tagged } | null;
    if (response?.ok) this.tags.set(dial.id, said?.tag);
    else if (response?.status === 412 && said?.dial) this.ask(dial, said.dial);
    else
      this.store.setState({
        notice: `The shared dial ${dial.name} was not told to the library; turn it again when the server answers.`,
      });
  }

  /** Turned here and elsewhere: the library's stays until the artist says otherwise; this effect keeps its own meanwhile. */
  private ask(mine: SharedDial, theirs: Tagged): void {
    this.tags.set(mine.id, theirs.tag);
    const { library } = this.store.getState();
    this.store.setState({
      library: [...library.filter((d) => d.id !== mine.id), untagged(theirs)],
      question: {
        text: `${theirs.name} was turned elsewhere meanwhile, to ${wordsOf(theirs)}. Here it is ${wordsOf(mine)}.`,
        yes: `Use ${wordsOf(mine)} for all`,
        act: () => this.publish(mine),
      },
    });
  }

  /** Follows the library. It is nobody's step: there is nothing to undo. */
  async follow(): Promise<void> {
    const tagged = await loadTagged().catch(() => []);
    const library = tagged.map(untagged);
    for (const { id, tag } of tagged) this.tags.set(id, tag);
    this.store.setState({ library });
    const { effect, following, history } = this.store.getState();
    const newer = newerIn(effect, library);
    if (newer.length === 0 || following) return;
    const followed = produce(effect, (draft) => {
      for (const dial of draft.shared)
        Object.assign(
          dial,
          newer.find((d) => d.id === dial.id),
        );
    });
    this.documents.apply({ effect: followed }, history);
  }

  /** A shared dial that has another value, by whatever step, has it for the whole library. */
  tell(before: Effect, now: Effect): void {
    if (before.shared === now.shared) return;
    const { library } = this.store.getState();
    for (const dial of now.shared) {
      const old = before.shared.find((d) => d.id === dial.id);
      if (!old || old === dial || same(old, dial)) continue;
      if (
        !same(
          library.find((d) => d.id === dial.id),
          dial,
        )
      )
        this.publish(dial);
    }
  }
}
