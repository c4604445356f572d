/** What is peeked at, in words and numbers: its name on a chip, its range now, and how much lies outside 0 to 1. */
import { Lock, X } from 'lucide-react';
import { RadioGroup } from 'radix-ui';
import type { PeekMode } from '../../core/analysis/peek.js';
import { strandsOf } from '../../core/effect/schema.js';
import { outputRecord, type OutputName } from '../../core/effect/outputs.js';
import { shortNumber } from '../bench/sheet/layout.js';
import { useBench, useBenchState } from '../context.js';

const useName = () =>
  useBenchState((s) => {
    const of = s.peek?.of ?? '';
    if (of.startsWith('output:')) return outputRecord(of.slice(7) as OutputName).label;
    return strandsOf(s.effect).find((t) => t.id === of)?.name ?? '';
  });

export function PeekChip() {
  const session = useBench();
  const locked = useBenchState((s) => s.peek?.locked ?? false);
  const on = useBenchState((s) => s.peek !== null);
  const name = useName();
  if (!on) return null;
  return (
    <button
      className="stage-chip border-text"
      onClick={() => session.frames.endPeek()}
      aria-label={`Peek ${name}: end it`}
      title="End  Esc"
    >
      {locked && <Lock size={14} strokeWidth={1.5} className="text-muted" aria-hidden />}
      <span className="text-muted">Peek</span>
      <span className="max-w-[140px] truncate font-medium">{name}</span>
      {locked && <X size={12} strokeWidth={1.5} className="text-muted" aria-hidden />}
    </button>
  );
}

const MODE_WORDS: Record<PeekMode, string> = { unit: '0 to 1', range: 'its range', signed: 'signed' };
const percent = (share: number) => `${(100 * share).toFixed(share > 0 && share < 0.0995 ? 1 : 0)} %`;
const stripes = (turn: number, one: string, other: string) =>
  `repeating-linear-gradient(${turn}deg, ${one} 0 4px, ${other} 4px 8px)`;

export function PeekLegend() {
  const session = useBench();
  const peek = useBenchState((s) => s.peek);
  const name = useName();
  if (!peek) return null;
  const { stats } = peek;
  const mode = peek.mode ?? peek.suited;
  const [low, high] = stats ? [stats.low, stats.high] : [0, 1];
  const size = Math.max(Math.abs(low), Math.abs(high));
  const below = mode === 'unit' && low < 0;
  const above = mode === 'unit' && high > 1;
  const ends = mode === 'signed' ? [-size, size] : mode === 'range' ? [low, high] : [Math.min(0, low), Math.max(1, high)];
  const hues = peek.lanes === 1 ? '#54c7d1, #14121a, #e89ee0' : '#000, #808080, #fff';
  return (
    <div
      role="group"
      aria-label={`Peek at ${name}`}
      data-testid="peek-legend"
      data-stats={stats ? JSON.stringify(stats) : undefined}
      data-mode={mode}
      className="absolute bottom-12 left-3 z-10 w-[308px] rounded-md border border-line bg-base/85 px-3 py-2"
    >
      <div className="flex items-baseline gap-2">
        <span className="truncate font-medium">{name}</span>
        <span className="text-[12px] text-muted">raw, before optics</span>
        <span className={`ml-auto shrink-0 text-[12px] ${stats && stats.notFinite > 0 ? 'text-fault' : 'text-muted'}`}>
          {!stats ? '' : stats.notFinite > 0 ? `${percent(stats.notFinite)} not a number` : 'no NaN, no infinity'}
        </span>
      </div>
      <div className="my-1.5 flex h-3 overflow-hidden rounded-sm border border-line">
        {below && <span className="w-1/5" style={{ background: stripes(45, '#0a090d', '#4a4654') }} />}
        <span className="grow" style={{ background: `linear-gradient(90deg, ${mode === 'signed' ? hues : '#000, #fff'})` }} />
        {above && <span className="w-1/5" style={{ background: stripes(135, '#fff', '#737079') }} />}
      </div>
      <div className="num relative flex h-4 justify-between text-[10.5px]">
        <span>{shortNumber(ends[0]!)}</span>
        {below && <span className="absolute left-[20%] -translate-x-1/2">0</span>}
        {mode === 'signed' && <span className="absolute left-1/2 -translate-x-1/2">0</span>}
        {above && <span className="absolute left-[80%] -translate-x-1/2">1</span>}
        <span>{shortNumber(ends[1]!)}</span>
      </div>
      <div className="flex justify-between text-[11px] text-muted">
        <span>
          <span className="num mr-1 text-[10.5px]">{stats ? percent(stats.below) : '–'}</span> below 0
        </span>
        <span>
          <span className="num mr-1 text-[10.5px]">{stats ? percent(stats.above) : '–'}</span> above 1
        </span>
      </div>
      <RadioGroup.Root
        aria-label="Shown as"
        className="mt-1 flex items-center gap-1 text-[11px] text-muted"
        orientation="horizontal"
        value={mode}
        onValueChange={(m) => session.frames.showPeek(m as PeekMode)}
      >
        <span className="mr-1">Shown as</span>
        {(Object.keys(MODE_WORDS) as PeekMode[]).map((m) => (
          <RadioGroup.Item
            key={m}
            value={m}
            className="h-6 rounded-sm border border-transparent px-1.5 hover:border-line data-[state=checked]:border-edge data-[state=checked]:text-text"
          >
            {MODE_WORDS[m]}
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
    </div>
  );
}

/** How far the still is: nothing while something moves. */
export function StillMark({ of }: { of: number }) {
  const samples = useBenchState((s) => s.samples);
  const share = samples / of;
  return (
    <span
      data-testid="still"
      data-samples={samples}
      role="progressbar"
      aria-label="The still picture"
      aria-valuemin={0}
      aria-valuemax={of}
      aria-valuenow={samples}
      title={samples < of ? `The still picture has ${samples} of ${of} samples` : 'The still picture is done'}
      className={`stage-chip px-1.5 ${samples === 0 ? 'invisible' : ''}`}
    >
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden>
        <circle cx="7" cy="7" r="5" fill="none" stroke="#352f44" strokeWidth="2" />
        <circle
          cx="7"
          cy="7"
          r="5"
          fill="none"
          stroke="#a59bb8"
          strokeWidth="2"
          strokeDasharray={`${share * 31.4159} 31.4159`}
          transform="rotate(-90 7 7)"
        />
      </svg>
    </span>
  );
}
