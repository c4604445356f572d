/** A name that is changed by pressing it twice. */
import { useState, type ReactNode } from 'react';
import { NameField } from './NameField.js';

interface Props {
  /** Of the field, while it is typed. */
  readonly label: string;
  readonly name: string;
  readonly onName: (name: string) => void;
  /** What shows it, where it is more than the name. */
  readonly children?: ReactNode;
}

export function Named({ label, name, onName, children }: Props) {
  const [naming, setNaming] = useState(false);
  const take = (to: string) => {
    if (to) onName(to);
    setNaming(false);
  };
  if (naming) return <NameField label={label} was={name} onLeave={() => setNaming(false)} onName={take} />;
  return (
    <button
      className="min-w-0 truncate text-left"
      title={`${name}: press twice for another name`}
      onDoubleClick={() => setNaming(true)}
    >
      {children ?? name}
    </button>
  );
}
