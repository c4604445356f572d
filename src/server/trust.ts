/** Who may talk to the server, and what its pages may do. */
import { randomBytes, timingSafeEqual } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import helmet from 'helmet';

export const isLoopback = (host: string): boolean => host === 'localhost' || host === '::1' || /^127\./.test(host);

/** A fresh nonce for the styles that dialogs and menus add to the page. */
export const styleNonce: RequestHandler = (_req, res, next) => {
  (res.locals as { nonce?: string }).nonce = randomBytes(16).toString('base64');
  next();
};

export const securityHeaders: RequestHandler = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'none'"],
      scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
      styleSrc: ["'self'", (_req, res) => `'nonce-${(res as Response).locals.nonce as string}'`],
      styleSrcAttr: ["'none'"],
      workerSrc: ["'self'", 'blob:'],
      fontSrc: ["'self'"],
      imgSrc: ["'self'", 'data:', 'blob:'],
      connectSrc: ["'self'"],
      baseUri: ["'none'"],
      formAction: ["'none'"],
      frameAncestors: ["'none'"],
    },
  },
  strictTransportSecurity: false,
});

/** Writes come from our own pages; on loopback, requests also carry a loopback name (no rebinding of foreign names). */
export function sameSite(host: string): RequestHandler {
  return (req, res, next) => {
    const asked = req.get('Host') ?? '';
    const name = asked.replace(/:\d+$/, '').replace(/^\[|\]$/g, '');
    if (isLoopback(host) && !isLoopback(name)) return void res.status(403).json({ error: 'This address is not served.' });
    const origin = req.get('Origin');
    if (req.method !== 'GET' && req.method !== 'HEAD' && origin !== undefined && origin.replace(/^https?:\/\//, '') !== asked)
      return void res.status(403).json({ error: 'Writing from another site is not allowed.' });
    next();
  };
}

/** The key of a data folder, made on first need. */
export function accessKey(folder: string): string {
  const file = join(folder, 'access-key');
  if (existsSync(file)) return readFileSync(file, 'utf8').trim();
  const key = randomBytes(24).toString('base64url');
  writeFileSync(file, `${key}\n`, { mode: 0o600 });
  return key;
}

/** Off loopback every request shows the key, once in the address and from then on in a cookie. */
export function requireKey(key: string): RequestHandler {
  const wanted = Buffer.from(key);
  const fits = (given: string | undefined) => {
    const bytes = Buffer.from(given ?? '');
    return bytes.length === wanted.length && timingSafeEqual(bytes, wanted);
  };
  return (req: Request, res: Response, next: NextFunction) => {
    const cookie = /(?:^|;\s*)wispen-key=([^;]+)/.exec(req.get('Cookie') ?? '')?.[1];
    if (fits(cookie)) return next();
    if (fits(typeof req.query.key === 'string' ? req.query.key : undefined)) {
      res.cookie('wispen-key', key, { httpOnly: true, sameSite: 'strict' });
      // A page goes on without the key in its address: it is not to be copied, exported or handed on from there.
      if (req.method !== 'GET' || !req.get('Accept')?.includes('text/html') || req.path.startsWith('/api/')) return next();
      const address = new URL(req.originalUrl, 'http://here');
      address.searchParams.delete('key');
      return void res.redirect(302, address.pathname + address.search);
    }
    res.status(401).json({ error: 'This address needs its access key: open the link that was printed when it started.' });
  };
}
