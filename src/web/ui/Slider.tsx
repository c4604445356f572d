/** A slider over a soft range: a thin rest, a thicker fill, a pill; a tick marks the default. */
import { Slider as Primitive } from 'radix-ui';
import { along, widened } from './track.js';

interface Props {
  readonly label: string;
  readonly value: number;
  readonly low: number;
  readonly high: number;
  readonly step?: number;
  readonly mark?: number;
  /** Paints the track with hues instead: of the colour circle, or of OKLCH. */
  readonly hues?: boolean | 'oklch';
  /** As far from 1 to 10 as from 10 to 100: for what is tuned by factors. Its low end has to be above 0. */
  readonly log?: boolean;
  /** Something else holds the value: the handle is hollow. */
  readonly held?: boolean;
  readonly onChange: (value: number) => void;
  readonly onDone: () => void;
}

export function Slider({
  label,
  value,
  low,
  high,
  step,
  mark,
  hues = false,
  log = false,
  held = false,
  onChange,
  onDone,
}: Props) {
  const [from, to] = widened(low, high, value);
  const track = along(from, to, log);
  const share = (v: number) => track.at(Math.max(from, Math.min(to, v))) * 100;
  const origin = from < 0 && to > 0 ? share(0) : 0;
  const at = share(value);
  // Readers of screens are told real values where the track is even; along a logarithmic one it is walked by shares.
  const by = log ? 1 / 200 : (step ?? (to - from) / 200);
  return (
    <Primitive.Root
      className="relative flex h-6 w-full touch-none items-center select-none"
      value={[log ? at / 100 : value]}
      min={log ? 0 : from}
      max={log ? 1 : to}
      step={by}
      onValueChange={([v]) => onChange(Number((log ? track.value(v!) : v!).toPrecision(log ? 3 : 6)))}
      onValueCommit={onDone}
    >
      <Primitive.Track className="relative h-6 grow">
        {hues ? (
          <span
            className={`${hues === 'oklch' ? 'hue-track-oklch' : 'hue-track'} absolute top-[11px] right-0 left-0 h-[3px] rounded-[2px]`}
          />
        ) : (
          <>
            <span className="absolute top-[11.5px] right-0 left-0 h-px bg-thread" />
            <span
              className="absolute top-[10.5px] h-[3px] bg-muted"
              style={{ left: `${Math.min(origin, at)}%`, width: `${Math.abs(at - origin)}%` }}
            />
          </>
        )}
        {mark !== undefined && mark > from && mark < to && (
          <span className="absolute top-[17px] h-1 w-px bg-edge" style={{ left: `${share(mark)}%` }} />
        )}
      </Primitive.Track>
      <Primitive.Thumb
        aria-label={label}
        aria-valuetext={String(value)}
        className={`block h-[14px] w-[6px] rounded-[3px] ${held ? 'border border-ink bg-panel' : 'bg-ink'} shadow-[0_0_0_2px_var(--color-panel)] before:absolute before:top-1/2 before:left-1/2 before:h-6 before:w-6 before:-translate-x-1/2 before:-translate-y-1/2`}
      />
    </Primitive.Root>
  );
}
