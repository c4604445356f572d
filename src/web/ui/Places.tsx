/** The two lists of the application, in the bar of each. */
import { Link } from 'react-router';

const PLACES = [
  { to: '/', name: 'Library' },
  { to: '/stages', name: 'Stages' },
] as const;

export function Places({ here }: { here: (typeof PLACES)[number]['name'] }) {
  return (
    <nav className="flex gap-6" aria-label="Lists">
      {PLACES.map(({ to, name }) => (
        <Link
          key={to}
          to={to}
          aria-current={name === here ? 'page' : undefined}
          className={`relative flex h-12 items-center rounded-sm after:absolute after:right-0 after:bottom-0 after:left-0 after:h-0.5 ${name === here ? 'font-medium after:bg-ink' : 'text-muted hover:text-ink'}`}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}
