/** An effect that could not be opened: why, and what can be done about it. */
import { Link } from 'react-router';
import { documentPath } from '../../session/api.js';
import { type FailureReason, type OpenFailure } from '../../session/failure.js';
import { NotFound } from '../NotFound.js';
import { AsideButton } from '../bar/Asides.js';

const WHAT: Readonly<Record<Exclude<FailureReason, 'gone'>, (format: string) => string>> = {
  refused: (format) => `This effect cannot be opened: the server refused its ${format}.`,
  silent: () => 'This effect cannot be opened: the server does not answer.',
  broken: (format) => `This effect cannot be opened: what is stored of its ${format} cannot be read.`,
};

export function Failed({ failure, id, onRetry }: { failure: OpenFailure; id: string; onRetry: () => void }) {
  const { reason, message, format, asides } = failure;
  if (reason === 'gone' && asides.length === 0) return <NotFound message={`${message}`} />;
  return (
    <div className="flex h-full flex-col items-center justify-center gap-4 p-6 text-center">
      <p role="alert">{reason === 'gone' ? message : WHAT[reason](format)}</p>
      {(reason === 'refused' || reason === 'broken') && <p className="max-w-[520px] text-muted">{message}</p>}
      <div className="flex gap-2">
        {reason !== 'gone' && (
          <button className="button" onClick={onRetry}>
            Retry
          </button>
        )}
        {reason === 'broken' && format === 'effect' && (
          <a className="button" href={documentPath('effect', id)} download={`${id}.wispen.json`}>
            Save the file as it is
          </a>
        )}
        {asides.map((aside) => (
          <AsideButton key={aside.key} aside={aside} />
        ))}
        <Link className="button" to="/">
          Library
        </Link>
      </div>
      {asides.length > 0 && (
        <p className="max-w-[520px] text-muted">This browser has kept a draft of it that cannot be read: {asides[0]!.why}</p>
      )}
    </div>
  );
}
