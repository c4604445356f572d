/** Who may talk to the server, and what its pages may do. */
import { randomBytes, timingSafeEqual } from 'node:crypto';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { isIP, isIPv4 } from 'node:net';
import { networkInterfaces } from 'node:os';
import { join } from 'node:path';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import helmet from 'helmet';

/** Whether only this machine can reach it: by what the address is, not by how a name begins. */
export const isLoopback = (host: string): boolean =>
  host === 'localhost' || host === '::1' || (isIPv4(host) && host.startsWith('127.'));

const LOOPBACK = ['localhost', '127.0.0.1', '::1'];

/**
 * The names under which the server answers, whole and exact: this machine's own, what HOST names, and what a setting does.
 * @param host what it listens at; where that is every address (0.0.0.0, ::), every address of this machine is meant
 * @param more names of the setting WISPEN_NAMES
 */
export function servedNames(host: string, more: readonly string[] = []): ReadonlySet<string> {
  const own =
    host === '0.0.0.0' || host === '::'
      ? Object.values(networkInterfaces()).flatMap((list) => (list ?? []).map((i) => i.address.split('%')[0]!))
      : [host];
  return new Set([...LOOPBACK, ...own, ...more].map((name) => name.toLowerCase()));
}

/** The name in a Host header, without its port; null when there is none to be read. */
export function nameIn(header: string): string | null {
  const match = /^(?:\[([0-9a-f:.]+)\]|([^\s:[\]/@]+))(?::\d{1,5})?$/i.exec(header);
  const name = (match?.[1] ?? match?.[2])?.toLowerCase() ?? null;
  return name !== null && match?.[1] !== undefined && isIP(name) !== 6 ? null : name;
}

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

/** Writes come from our own pages, and every request names us as we are known: no foreign name is bound to our address. */
export function sameSite(names: ReadonlySet<string>): RequestHandler {
  return (req, res, next) => {
    const asked = req.get('Host') ?? '';
    const name = nameIn(asked);
    if (name === null || !names.has(name))
      return void res.status(403).json({
        error: 'This address is not served. If it is a name of yours for this machine, start Wispen with it in WISPEN_NAMES.',
      });
    const origin = req.get('Origin');
    if (req.method !== 'GET' && req.method !== 'HEAD' && origin !== undefined && origin.replace(/^https?:\/\//, '') !== asked)
      return void res.status(403).json({ error: 'Writing from another site is not allowed.' });
    next();
  };
}

const KEY = /^[A-Za-z0-9_-]{32,}$/;

/** The key of a data folder, made on first need. @throws with a sentence when there is one that cannot be used */
export function accessKey(folder: string): string {
  const file = join(folder, 'access-key');
  if (!existsSync(file)) {
    // Written beside and renamed: there is a whole key or none.
    writeFileSync(`${file}.part`, `${randomBytes(24).toString('base64url')}\n`, { mode: 0o600 });
    renameSync(`${file}.part`, file);
  }
  const key = readFileSync(file, 'utf8').trim();
  if (!KEY.test(key))
    throw new Error(`the access key in ${file} is empty or damaged; delete the file, and a new one is made at the next start.`);
  return key;
}

/** Off loopback every request shows the key, once in the address and from then on in a cookie. */
export function requireKey(key: string): RequestHandler {
  if (!KEY.test(key)) throw new Error('an access key has 32 letters and digits or more');
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
