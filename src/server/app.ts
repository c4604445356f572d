/** The Express application: headers, the interface to documents, and the built pages. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { type Express } from 'express';
import type { Database } from './database.js';
import type { DemoWorld } from './demo.js';
import { apiRoutes } from './routes.js';
import { requireKey, sameSite, securityHeaders, styleNonce } from './trust.js';

export interface AppOptions {
  readonly db: Database;
  readonly demo: DemoWorld;
  readonly host: string;
  /** Required of every request when given. */
  readonly key: string | null;
  /** The folder of the built pages, or null to serve the interface alone. */
  readonly pages: string | null;
}

export function createApp({ db, demo, host, key, pages }: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(styleNonce, securityHeaders, sameSite(host));
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
  return app;
}
