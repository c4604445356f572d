/** The keys of the bench, and whether single letters are among them. */
import { Keyboard } from 'lucide-react';
import { Popover, Switch } from 'radix-ui';

const KEYS: readonly (readonly [string, string])[] = [
  ['/', 'add a strand: “noise scale 8”, “Glow = multiply Rim, 24”'],
  ['↑ ↓', 'go from row to row'],
  ['Enter', 'open or close a row'],
  ['Tab', 'into a row’s controls; Esc comes back'],
  ['Shift ↑ ↓', 'choose several; Ctrl and a click take one more'],
  ['Alt ↑ ↓', 'move what is chosen'],
  ['D', 'duplicate'],
  ['Ctrl C X V', 'copy, cut, paste: also into another effect'],
  ['G', 'make a section of what is chosen'],
  ['R', 'rename'],
  ['O', 'another operation in its place'],
  ['C', 'before and after the last step, by turns'],
  ['F', 'feed into an output or an input'],
  ['W', 'wrap: invert, clamp, a new dial'],
  ['S', 'swap the first two inputs'],
  ['B', 'bypass'],
  ['P', 'peek at its value: hold, or press shortly to lock'],
  ['Delete', 'delete; readers take its first input'],
  ['F V', 'on the stage: frame the prop in hand; back to the viewpoint'],
  ['M', 'the Overview, and back to the sheet'],
  ['Space', 'play or pause'],
  ['\\', 'only the picture'],
  ["'", 'without bloom and tone curve'],
];

export function KeysHelp({ letters, onLetters }: { letters: boolean; onLetters: (on: boolean) => void }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="plain" aria-label="Keys" title="Keys">
          <Keyboard size={16} strokeWidth={1.5} aria-hidden />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content aria-label="Keys" className="menu p-3" align="end" sideOffset={6} collisionPadding={8}>
          <dl className="grid grid-cols-[64px_1fr] items-center gap-y-1.5">
            {KEYS.map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <kbd>{key}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
          <Switch.Root className="button mt-3 w-full" checked={letters} onCheckedChange={onLetters}>
            Single-letter keys are {letters ? 'on' : 'off'}
          </Switch.Root>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
