/** The keys of the bench, and whether single letters are among them. */
import { Keyboard } from 'lucide-react';
import { Popover, Switch } from 'radix-ui';
import { PopoverContent } from '../../ui/PopoverContent.js';

/** What each key does, by where it does it. */
export const KEYS: readonly { readonly where: string; readonly keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'On a row of the sheet',
    keys: [
      ['/', 'add a strand: “noise scale 8”, “Glow = multiply Rim, 24”'],
      [';', 'then, in the same line: “fresnel width .4; multiply #58c8ff x14; emission”'],
      ['↑ ↓', 'go from row to row'],
      ['Enter', 'open or close a row'],
      ['Tab', 'into a row’s controls; Esc comes back'],
      ['Shift ↑ ↓', 'choose several; Ctrl and a click take one more'],
      ['Alt ↑', 'move what is chosen up; Alt ↓ down'],
      ['D', 'duplicate'],
      ['Ctrl C', 'copy; Ctrl X cuts, Ctrl V pastes: also into another effect'],
      ['G', 'make a section of what is chosen'],
      ['M', 'of several: make them a motif, or put them back into theirs'],
      ['U', 'unfold a motif or a formula into strands'],
      ['R', 'rename'],
      ['O', 'another operation in its place'],
      ['F', 'feed into an output or an input'],
      ['W', 'wrap: invert, clamp, to 0..1, a new dial'],
      ['S', 'swap the first two inputs'],
      ['B', 'bypass'],
      ['H', 'what its operation does, with an example'],
      ['P', 'peek at its value: hold, or press shortly to lock'],
      ['Delete', 'delete; readers take its first input'],
    ],
  },
  {
    where: 'On the stage',
    keys: [
      ['F', 'frame the prop in hand'],
      ['V', 'back to the viewpoint'],
    ],
  },
  {
    where: 'Anywhere on the bench',
    keys: [
      ['Ctrl K', 'do anything, by a few letters of its name'],
      ['?', 'these keys'],
      ['Ctrl Z', 'undo; Ctrl Shift Z redoes'],
      ['C', 'before and after the last step, by turns'],
      ['M', 'the Overview, and back to the sheet'],
      ['Space', 'play or pause'],
      ['T', 'fire the trigger in hand'],
      ['Esc', 'end peeking, and firing by presses'],
      ['\\', 'only the picture'],
      ["'", 'without bloom and tone curve'],
    ],
  },
];

interface Props {
  readonly letters: boolean;
  readonly onLetters: (on: boolean) => void;
  readonly open: boolean;
  readonly onOpen: (open: boolean) => void;
}

export function KeysHelp({ letters, onLetters, open, onOpen }: Props) {
  return (
    <Popover.Root open={open} onOpenChange={onOpen}>
      <Popover.Trigger asChild>
        <button className="plain" aria-label="Keys" title="Keys  ?">
          <Keyboard size={16} strokeWidth={1.5} aria-hidden />
        </button>
      </Popover.Trigger>
      <PopoverContent
        aria-label="Keys"
        className="max-h-(--radix-popover-content-available-height) w-[720px] p-4"
        align="start"
        sideOffset={6}
        collisionPadding={8}
      >
        <div className="columns-2 gap-6">
          {KEYS.map(({ where, keys }) => (
            <section key={where} className="mb-3 break-inside-avoid">
              <h3 className="head mb-1.5 text-[13px] leading-5">{where}</h3>
              <dl className="grid grid-cols-[72px_1fr] items-baseline gap-y-1.5 text-[12px] leading-4">
                {keys.map(([key, does]) => (
                  <div key={key} className="contents">
                    <dt>
                      <kbd>{key}</kbd>
                    </dt>
                    <dd>{does}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </div>
        <Switch.Root className="button mt-4 w-full" checked={letters} onCheckedChange={onLetters}>
          Single-letter keys are {letters ? 'on' : 'off'}
        </Switch.Root>
      </PopoverContent>
    </Popover.Root>
  );
}
