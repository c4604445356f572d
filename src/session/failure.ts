/** Why a document could not be opened, and what this browser still has of it. */

export type Format = 'effect' | 'stage';

/** A draft of this browser's that can no longer be read: kept until somebody lets it go. */
export interface Aside {
  /** Where it is kept. */
  readonly key: string;
  /** What of it cannot be read. */
  readonly why: string;
  readonly document: unknown;
}

/** Why a document could not be opened: it is not there, the server will not hand it out, does not answer, or hands out what cannot be read. */
export type FailureReason = 'gone' | 'refused' | 'silent' | 'broken';

export class OpenFailure extends Error {
  constructor(
    readonly reason: FailureReason,
    message: string,
    readonly format: Format,
    /** Drafts of it that this browser has. */
    readonly asides: readonly Aside[] = [],
  ) {
    super(message);
  }

  with(asides: readonly Aside[]): OpenFailure {
    return new OpenFailure(this.reason, this.message, this.format, asides);
  }
}
