/** An answer that says what could not be done, as a sentence. */
import type { Response } from 'express';

export function fail(res: Response, status: number, error: string, more: object = {}): void {
  res.status(status).json({ error, ...more });
}
