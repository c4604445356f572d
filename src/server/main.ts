/** Starts the server. PORT, HOST and WISPEN_DATA are read from the environment. */
import { existsSync } from 'node:fs';
import { createServer } from 'node:http';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createApp } from './app.js';
import { openDatabase } from './database.js';
import { loadDemo, seed } from './demo.js';
import { accessKey, isLoopback } from './trust.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
const host = process.env.HOST || '127.0.0.1';
const port = Number(process.env.PORT || 4173);
const folder = resolve(process.env.WISPEN_DATA || join(root, '.wispen-data'));

function stop(message: string): never {
  console.error(`wispen: ${message}`);
  process.exit(1);
}

if (!Number.isInteger(port) || port < 0 || port > 65535)
  stop(`PORT is ${process.env.PORT}; it must be a number from 0 to 65535.`);

const pages = join(root, 'dist');
if (!existsSync(join(pages, 'index.html'))) stop('the pages are not built: run `npm run demo`, or `npm run build` first.');

const db = await openDatabase(folder).catch((error: Error) =>
  stop(`the data folder ${folder} cannot be opened: ${error.message}.`),
);
const demo = loadDemo(join(root, 'demo'));
await seed(db, demo);
const key = isLoopback(host) ? null : accessKey(folder);
const server = createServer(createApp({ db, demo, host, key, pages }));

server.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EADDRINUSE')
    stop(`port ${port} on ${host} is taken. Stop the other program, or choose another port: PORT=4174 npm run demo`);
  if (error.code === 'EACCES' || error.code === 'EADDRNOTAVAIL') stop(`${host}:${port} cannot be used: ${error.message}.`);
  throw error;
});
server.listen(port, host, () => {
  const address = server.address();
  const bound = typeof address === 'object' && address ? address.port : port;
  const name = host.includes(':') ? `[${host}]` : host;
  console.log(`Wispen is at http://${name}:${bound}/${key === null ? '' : `?key=${key}`}`);
});

let stopping = false;
function shutDown(): void {
  if (stopping) return;
  stopping = true;
  server.close(() => void db.close().then(() => process.exit(0)));
  server.closeAllConnections();
}
process.on('SIGINT', shutDown);
process.on('SIGTERM', shutDown);
