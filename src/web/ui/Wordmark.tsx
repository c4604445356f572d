import { Link } from 'react-router';

export function Wordmark() {
  return (
    <Link to="/" className="flex items-center gap-2.5 rounded-sm" aria-label="Wispen, to the Library">
      <svg
        width="18"
        height="18"
        viewBox="0 0 24 24"
        fill="none"
        stroke="var(--color-wisp)"
        strokeWidth="2.2"
        strokeLinecap="round"
        aria-hidden
      >
        <path d="M6 3.5c-4.4 5-4.4 12 0 17M11 6.2c-3 3.4-3 8.2 0 11.6" />
        <circle cx="16.5" cy="12" r="2.6" fill="var(--color-wisp)" stroke="none" />
      </svg>
      <span className="font-head text-[17px] leading-6 font-bold">Wispen</span>
    </Link>
  );
}
