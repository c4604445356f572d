/** A small switch beside its words: 28 by 16. */
import { Switch } from 'radix-ui';

interface Props {
  readonly label: string;
  readonly on: boolean;
  readonly onChange: (on: boolean) => void;
}

export const Toggle = ({ label, on, onChange }: Props) => (
  <Switch.Root
    aria-label={label}
    className="relative h-4 w-7 shrink-0 rounded-full border border-edge bg-base before:absolute before:-inset-1 data-[state=checked]:bg-raised"
    checked={on}
    onCheckedChange={onChange}
  >
    <Switch.Thumb className="block h-2.5 w-2.5 translate-x-[3px] rounded-full bg-muted data-[state=checked]:translate-x-[13px] data-[state=checked]:bg-ink" />
  </Switch.Root>
);
