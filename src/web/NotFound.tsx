/** An address with nothing behind it. */
import { Link } from 'react-router';
import { Wordmark } from './ui/Wordmark.js';

export function NotFound({ message = 'There is nothing at this address.' }: { message?: string }) {
  return (
    <main className="flex h-full flex-col">
      <header className="flex h-12 items-center border-b border-line bg-panel px-4">
        <Wordmark />
      </header>
      <div className="m-auto flex flex-col items-center gap-4">
        <h1 className="head text-[24px] leading-8">{message}</h1>
        <Link className="button" to="/">
          To the Library
        </Link>
      </div>
    </main>
  );
}
