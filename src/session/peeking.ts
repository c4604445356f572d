/** Peeking at one value of the sheet: what is peeked at, its program on every prop that wears the effect, its numbers. */
import { findOperator } from '../core/operators/catalogue.js';
import { widthOf } from '../core/ir/types.js';
import {
  lookOf,
  peekPort,
  peekStats,
  peekText,
  suitedMode,
  type PeekLook,
  type PeekMode,
  type PeekName,
  type PeekStats,
} from '../core/analysis/peek.js';
import type { Effect } from '../core/effect/schema.js';
import { strandsOf } from '../core/effect/schema.js';
import type { Port } from '../core/lower/lower.js';
import type { Material } from '../core/scene/materials.js';
import type { Stage } from '../core/scene/stage.js';
import { steadyOf, type Worn, type WornOnStage } from '../core/scene/worn.js';
import { fillBlock } from '../core/targets/block.js';
import type { GlslText } from '../core/targets/glsl.js';
import type { StageRenderer } from '../render/renderer.js';
import { pictures } from './pictures.js';
import type { Peek } from './state.js';

const MEASURE_GAP_MS = 250;

interface Peeked {
  readonly worn: Worn;
  readonly text: GlslText;
}

const NO_STATS: PeekStats = { low: 0, high: 1, below: 0, above: 0, notFinite: 0 };

/** How a peek shows its value. */
export const lookAt = (peek: Peek): PeekLook => lookOf(peek.mode ?? peek.suited, peek.stats ?? NO_STATS, peek);

export class Peeking {
  private readonly texts = new WeakMap<Material, Map<PeekName, GlslText>>();
  /** What is drawn. */
  private drawn: readonly Peeked[] = [];
  private drawnKey = '';
  private timer: ReturnType<typeof setTimeout> | null = null;

  constructor(
    private readonly worn: WornOnStage,
    private readonly get: () => { readonly peek: Peek | null; readonly effect: Effect },
    private readonly set: (peek: Peek | null) => void,
    private readonly requestFrame: () => void,
  ) {}

  private peeked(of: PeekName, effect: string): Peeked[] {
    return this.worn.all.flatMap((worn) => {
      if (worn.shown.id !== effect) return [];
      const { material, program } = worn;
      let known = this.texts.get(material);
      if (!known) this.texts.set(material, (known = new Map()));
      const text = known.get(of) ?? peekText(program, of);
      if (!text) return [];
      known.set(of, text);
      return [{ worn, text }];
    });
  }

  /** Peeks at a value, where the sheet has it. */
  begin(of: PeekName, locked: boolean): void {
    const { peek, effect } = this.get();
    const port = this.portOf(of);
    if (!port) return;
    const strand = strandsOf(effect).find((s) => s.id === of);
    const again = peek?.of === of ? peek : null;
    this.set({
      of,
      locked,
      mode: again?.mode ?? null,
      suited: again?.suited ?? (strand && findOperator(strand.op)?.distance ? 'range' : 'unit'),
      stats: again?.stats ?? null,
      lanes: Math.min(4, widthOf(port.node.type)),
      kind: port.kind,
    });
  }

  end(): void {
    this.set(null);
  }

  /** Shows the value in another way. */
  show(mode: PeekMode): void {
    const { peek } = this.get();
    if (peek) this.set({ ...peek, mode });
  }

  private portOf(of: PeekName): Port | null {
    const { effect } = this.get();
    const worn = this.worn.all.find((o) => o.shown.id === effect.id);
    return worn ? peekPort(worn.program, of) : null;
  }

  /** Has the renderer show what is peeked at, where that is another program than before. */
  async follow(renderer: StageRenderer | null): Promise<void> {
    const { peek, effect } = this.get();
    if (!renderer) return;
    if (peek && !this.portOf(peek.of)) return this.set(null);
    const wanted = peek ? this.peeked(peek.of, effect.id) : [];
    const key = wanted.map(({ worn }) => `${worn.prop}:${worn.material.number}:${peek!.of}`).join();
    if (key === this.drawnKey) {
      // The same programs with other numbers.
      this.drawn = wanted.length > 0 ? wanted : this.drawn;
      return;
    }
    this.drawnKey = key;
    const ready = await renderer.wearPeek(
      wanted.map(({ worn, text }) => ({ prop: worn.prop, text, finish: worn.material.finish })),
    );
    if (!ready) return;
    this.drawn = wanted;
    this.requestFrame();
  }

  /** Hands the renderer the numbers of a moment, and how they are shown. */
  fill(renderer: StageRenderer, stage: Stage, time: number): void {
    const { peek } = this.get();
    if (!peek) return;
    for (const { worn, text } of this.drawn) {
      const own = steadyOf(stage, worn.prop);
      renderer.peek.setBlock(worn.prop, text, fillBlock(text, worn.params, time, worn.shown.loop, own, pictures));
    }
    renderer.frame.peekLook = lookAt(peek);
  }

  /** Takes the numbers of what is seen, a few times a second at most. */
  measureSoon(renderer: StageRenderer): void {
    if (this.timer || !this.get().peek) return;
    this.timer = setTimeout(
      () => {
        this.timer = null;
        void this.measure(renderer);
      },
      this.get().peek!.stats ? MEASURE_GAP_MS : 0,
    );
  }

  private async measure(renderer: StageRenderer): Promise<void> {
    const asked = this.get().peek;
    if (!asked) return;
    const values = await renderer.peek.read().catch(() => null);
    const { peek, effect } = this.get();
    if (!values || peek?.of !== asked.of) return;
    const stats = peekStats(values, peek.lanes);
    const strand = strandsOf(effect).find((s) => s.id === peek.of);
    const first = peek.stats === null;
    if (!first && JSON.stringify(stats) === JSON.stringify(peek.stats)) return;
    const measures = strand !== undefined && findOperator(strand.op)?.distance === true;
    // Looked at once: a picture that changes its ways while it moves cannot be read.
    this.set({ ...peek, stats, suited: first ? suitedMode(stats, measures) : peek.suited });
    this.requestFrame();
  }

  /** Another renderer peeks at nothing yet. */
  forget(): void {
    this.drawnKey = '';
    this.drawn = [];
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer);
  }
}
