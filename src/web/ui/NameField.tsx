/** A name that is being typed in a list: Enter takes it, Escape and leaving let it be. */
interface Props {
  readonly label: string;
  readonly was: string;
  /** @param name without spaces around it; it may be empty */
  readonly onName: (name: string) => void;
  readonly onLeave: () => void;
}

export function NameField({ label, was, onName, onLeave }: Props) {
  return (
    <input
      className="field h-6 min-w-0 grow px-1"
      aria-label={label}
      placeholder="Name"
      autoFocus
      defaultValue={was}
      maxLength={120}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={onLeave}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') onName(e.currentTarget.value.trim());
        if (e.key !== 'Escape') return;
        // It closes the field, not what the field stands in.
        e.preventDefault();
        onLeave();
      }}
    />
  );
}
