/**
 * Keeps the application itself in the browser, so that a reload while the server is stopped still opens it. Documents
 * are not its business: the session keeps those.
 */
interface Extendable extends Event {
  waitUntil(work: Promise<unknown>): void;
}
interface Fetching extends Extendable {
  readonly request: Request;
  respondWith(response: Promise<Response>): void;
}
interface Scope {
  addEventListener(kind: 'install' | 'activate', listener: (event: Extendable) => void): void;
  addEventListener(kind: 'fetch', listener: (event: Fetching) => void): void;
  skipWaiting(): Promise<void>;
  readonly clients: { claim(): Promise<void> };
}
/** The built files, each with the hash of its content in its name; written in by the build. */
declare const __BUILT_FILES__: readonly string[];

const scope = self as unknown as Scope;
const files = new Set(__BUILT_FILES__);
/** A build of its own has a store of its own. */
const STORE = `wispen ${[...files].sort().join()}`;
const PAGE = '/';

scope.addEventListener('install', (event) => {
  event.waitUntil(
    caches
      .open(STORE)
      .then((store) => store.addAll([PAGE, ...files]))
      .then(() => scope.skipWaiting()),
  );
});

scope.addEventListener('activate', (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((n) => n.startsWith('wispen ') && n !== STORE).map((n) => caches.delete(n))))
      .then(() => scope.clients.claim()),
  );
});

async function keptOr(request: Request | string, fallback: () => Promise<Response>): Promise<Response> {
  return (await caches.match(request)) ?? fallback();
}

scope.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.method !== 'GET') return;
  // Every address of the application is the same page.
  if (request.mode === 'navigate')
    event.respondWith(fetch(request).catch(() => keptOr(PAGE, () => Promise.reject(new Error('not kept')))));
  else if (files.has(new URL(request.url).pathname)) event.respondWith(keptOr(request, () => fetch(request)));
});
