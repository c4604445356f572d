/** One of a few, side by side. */
import { RadioGroup } from 'radix-ui';
import type { ReactNode } from 'react';

interface Props<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly choices: readonly { readonly id: T; readonly name: ReactNode; readonly title?: string; readonly label?: string }[];
  readonly onChoose: (id: T) => void;
  readonly className?: string;
}

export function Segments<T extends string>({ label, value, choices, onChoose, className = '' }: Props<T>) {
  return (
    <RadioGroup.Root
      aria-label={label}
      orientation="horizontal"
      className={`flex gap-0.5 rounded-md border border-line p-px ${className}`}
      value={value}
      onValueChange={(id) => onChoose(id as T)}
    >
      {choices.map((c) => (
        <RadioGroup.Item key={c.id} value={c.id} title={c.title} aria-label={c.label} className="segment min-w-0 grow">
          {c.name}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
