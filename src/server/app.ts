/** The Express application: headers, the interface to documents, and the built pages. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { type ErrorRequestHandler, type Express } from 'express';
import type { Database } from '../store/database.js';
import type { DemoWorld } from './demo.js';
import { apiRoutes } from './routes.js';
import { requireKey, sameSite, securityHeaders, servedNames, styleNonce } from './trust.js';

export interface AppOptions {
  readonly db: Database;
  readonly demo: DemoWorld;
  /** What it listens at. */
  readonly host: string;
  /** Names of this machine beside those of `host`. */
  readonly names?: readonly string[];
  /** Required of every request when given. */
  readonly key: string | null;
  /** The folder of the built pages, or null to serve the interface alone. */
  readonly pages: string | null;
}

export function createApp({ db, demo, host, names = [], key, pages }: AppOptions): Express {
  db.assets.stock(demo.assets);
  const app = express();
  app.disable('x-powered-by');
  app.use(styleNonce, securityHeaders, sameSite(servedNames(host, names)));
  if (key !== null) app.use(requireKey(key));
  app.use('/api', apiRoutes(db, demo));
  if (pages !== null) {
    const page = readFileSync(join(pages, 'index.html'), 'utf8');
    app.use('/assets', express.static(join(pages, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
    app.use(express.static(pages, { index: false }));
    app.get('/{*splat}', (_req, res) => {
      res
        .set('Cache-Control', 'no-store')
        .type('html')
        .send(page.replaceAll('__NONCE__', res.locals.nonce as string));
    });
  }
  app.use(apart);
  return app;
}

/** What a request does wrong outside the interface: an address that cannot be read, a file that is not there. */
const apart: ErrorRequestHandler = (error: Error & { status?: number }, _req, res, next) => {
  if (res.headersSent) return next(error);
  const status = error.status && error.status < 500 ? error.status : 500;
  if (status === 500) console.error(error);
  res.status(status).json({
    error:
      status === 404
        ? 'There is nothing at this address.'
        : status < 500
          ? 'The request cannot be read.'
          : 'The server could not do this.',
  });
};
