/** No error takes more than the panel that it happens in: it says so, what happened can be copied, and there is a way back. */
import { useState, type ReactNode } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';
import { useRouteError } from 'react-router';
import { Wordmark } from './Wordmark.js';

/** What happened, for whoever mends it. @param where the panel's name */
export const whatHappened = (where: string, error: unknown): string =>
  [
    `Wispen: ${where} stopped.`,
    `At ${location.pathname}${location.search}, ${new Date().toISOString()}, ${navigator.userAgent}`,
    error instanceof Error ? (error.stack ?? `${error.name}: ${error.message}`) : String(error),
  ].join('\n');

function CopyButton({ text }: { text: string }) {
  const [copied, setCopied] = useState<'yes' | 'no' | null>(null);
  const copy = () =>
    void navigator.clipboard.writeText(text).then(
      () => setCopied('yes'),
      () => setCopied('no'),
    );
  return (
    <>
      <button className="button" onClick={copy}>
        {copied === 'yes' ? 'Copied' : 'Copy what happened'}
      </button>
      {/* Where the page may not use the clipboard, the text is there to be chosen. */}
      {copied === 'no' && (
        <textarea
          readOnly
          autoFocus
          aria-label="What happened"
          className="field num h-24 w-full p-2 text-[10.5px]"
          value={text}
        />
      )}
    </>
  );
}

function Stopped({ name, error, resetErrorBoundary }: FallbackProps & { readonly name: string }) {
  return (
    <div role="alert" data-testid="stopped" className="scroll flex h-full min-h-0 flex-col items-start gap-3 overflow-auto p-4">
      <p>
        {name} stopped on an error. <span className="text-muted">Your work is safe; everything else goes on.</span>
      </p>
      <div className="flex flex-wrap gap-2">
        <button className="button" onClick={resetErrorBoundary}>
          Try again
        </button>
        <CopyButton text={whatHappened(name, error)} />
      </div>
    </div>
  );
}

/**
 * @param name of the panel, as the sentence begins with it @param keys when one of them is another, it is tried again by
 * itself: what made it fail may be gone
 */
export function Guarded({ name, keys = [], children }: { name: string; keys?: readonly unknown[]; children: ReactNode }) {
  return (
    <ErrorBoundary fallbackRender={(props) => <Stopped name={name} {...props} />} resetKeys={[...keys]}>
      {children}
    </ErrorBoundary>
  );
}

/** A screen that cannot be shown at all. The documents are the server's and this browser's, so nothing is lost with it. */
export function ScreenStopped() {
  const error = useRouteError();
  return (
    <main className="flex h-full flex-col" role="alert" data-testid="stopped">
      <header className="flex h-12 items-center border-b border-line bg-panel px-4">
        <Wordmark />
      </header>
      <div className="m-auto flex max-w-[520px] flex-col items-center gap-4 p-6 text-center">
        <h1 className="head text-[20px] leading-7">This screen stopped on an error.</h1>
        <p className="text-muted">Your work is safe: it is with the server, or kept in this browser until the server has it.</p>
        <div className="flex flex-wrap justify-center gap-2">
          <button className="button" onClick={() => location.reload()}>
            Open it again
          </button>
          <CopyButton text={whatHappened('The screen', error)} />
          <a className="button" href="/">
            To the Library
          </a>
        </div>
      </div>
    </main>
  );
}
