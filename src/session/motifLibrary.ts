/** The library's motifs: those that ship with it, and the artist's own; who uses them, and newer revisions than an effect has. */
import type { Effect, Motif } from '../core/effect/schema.js';
import { motifAlone } from '../core/effect/carried.js';
import { readMotif } from '../core/effect/motifFile.js';
import { asItsOwn } from '../core/effect/motifEdits.js';
import type { Documents } from './documents.js';
import type { BenchStore } from './state.js';

export interface LibraryMotif {
  readonly motif: Motif;
  /** It came with the library, and cannot be changed there. */
  readonly shipped: boolean;
  /** What it was when it was asked for: whoever changes it says so. */
  readonly tag?: string;
  /** Effects that have it, by id and name. */
  readonly usedBy: readonly { readonly id: string; readonly name: string }[];
}

export class MotifLibrary {
  constructor(
    private readonly store: BenchStore,
    private readonly documents: Pick<Documents, 'edit'>,
  ) {}

  /** Asks what there is. A server that does not answer leaves what was known. */
  async follow(): Promise<void> {
    const response = await fetch('/api/motifs').catch(() => null);
    if (!response?.ok) return;
    // One that was kept by an earlier version and that no reader takes any more is not offered.
    const all = (await response.json()) as LibraryMotif[];
    this.store.setState({ motifs: all.filter(({ motif }) => readMotif(motif).ok) });
  }

  known(id: string): LibraryMotif | undefined {
    return this.store.getState().motifs.find(({ motif }) => motif.id === id);
  }

  /** The library's revision where it is newer than an effect's own. */
  newer({ id, revision }: Motif): Motif | null {
    const known = this.known(id)?.motif;
    return known && known.revision > revision ? known : null;
  }

  /** Keeps a motif in the library. @returns whether it has it now */
  async keep(motif: Motif): Promise<boolean> {
    const tag = this.known(motif.id)?.tag;
    const response = await fetch(`/api/motifs/${encodeURIComponent(motif.id)}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', ...(tag === undefined ? { 'If-None-Match': '*' } : { 'If-Match': tag }) },
      body: JSON.stringify(motifAlone(this.store.getState().effect, motif)),
    }).catch(() => null);
    if (response?.status === 412) return this.part(motif);
    const said = response && !response.ok ? ((await response.json().catch(() => ({}))) as { error?: string }).error : undefined;
    if (!response?.ok)
      this.store.setState({
        notice: said ?? `The library does not answer: ${motif.name} is in this effect, and not in the library yet.`,
      });
    else await this.follow();
    return response?.ok === true;
  }

  /** Somebody else has changed it meanwhile: theirs stays, and this one goes on as a motif of its own. @returns whether it is kept */
  private async part(motif: Motif): Promise<boolean> {
    await this.follow();
    const taken = new Set(this.store.getState().motifs.map((m) => m.motif.name));
    const own = { id: crypto.randomUUID(), name: `${motif.name.slice(0, 70)}, mine` };
    for (let k = 2; taken.has(own.name); k++) own.name = `${motif.name.slice(0, 70)}, mine ${k}`;
    this.documents.edit(`Keep ${motif.name} as a motif of its own`, (draft) => asItsOwn(draft, { from: motif.id, ...own }));
    const now = this.store.getState().effect.motifs.find((m) => m.id === own.id);
    const kept = now ? await this.keep(now) : false;
    this.store.setState({
      notice: `${motif.name} was changed elsewhere meanwhile, and that stays. Yours is ${own.name} now, here and in the library.`,
    });
    return kept;
  }

  /** A motif that the library has is told to it when it changes, and who else uses it is said. */
  publish(motif: Motif): void {
    const known = this.known(motif.id);
    if (!known || known.shipped) return;
    const { effect } = this.store.getState();
    const others = known.usedBy.filter((e) => e.id !== effect.id);
    void this.keep(motif).then((kept) => {
      if (!kept || others.length === 0) return;
      const names = others
        .slice(0, 3)
        .map((e) => e.name)
        .join(', ');
      const more = others.length > 3 ? ` and ${others.length - 3} more` : '';
      this.store.setState({
        notice: `${motif.name} is revision ${motif.revision} in the library. ${names}${more} may take it when opened.`,
      });
    });
  }

  async drop(id: string): Promise<void> {
    await fetch(`/api/motifs/${encodeURIComponent(id)}`, { method: 'DELETE' }).catch(() => null);
    await this.follow();
  }
}

/** Motifs that can be used here: the effect's own, then the library's. */
export const motifsAtHand = (effect: Effect, library: readonly LibraryMotif[]): Motif[] => [
  ...effect.motifs,
  ...library.flatMap(({ motif }) => (effect.motifs.some((m) => m.id === motif.id) ? [] : [motif])),
];
