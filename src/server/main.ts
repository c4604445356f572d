/** Starts the server. PORT, HOST and WISPEN_DATA are read from the environment. */
import { existsSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { createApp } from './app.js';
import { backUpDaily, backupsIn } from '../store/backups.js';
import { openDatabase } from '../store/database.js';
import { DATA_FOLDER, ROOT } from '../store/place.js';
import { diskTrouble } from '../store/trouble.js';
import { loadDemo, seed } from './demo.js';
import { accessKey, isLoopback } from './trust.js';

const host = process.env.HOST || '127.0.0.1';
const port = Number(process.env.PORT || 4173);
const folder = DATA_FOLDER;

function stop(message: string): never {
  console.error(`wispen: ${message}`);
  process.exit(1);
}

if (!Number.isInteger(port) || port < 0 || port > 65535)
  stop(`PORT is ${process.env.PORT}; it must be a number from 0 to 65535.`);

const pages = join(ROOT, 'dist');
if (!existsSync(join(pages, 'index.html'))) stop('the pages are not built: run `npm run demo`, or `npm run build` first.');

const demo = loadDemo(join(ROOT, 'demo'));
const db = await openDatabase(folder, (fresh) => seed(fresh, demo)).catch((error: Error) =>
  stop(`the data folder ${folder} cannot be opened: ${diskTrouble(error) ?? `${error.message.replace(/\.$/, '')}.`}`),
);
let key: string | null = null;
try {
  // What the demo has got since this folder was made.
  await seed(db, demo);
  key = isLoopback(host) ? null : accessKey(folder);
} catch (error) {
  await db.close();
  stop(diskTrouble(error) ?? (error as Error).message);
}
const names = (process.env.WISPEN_NAMES ?? '').split(/[\s,]+/).filter(Boolean);
const server = createServer(createApp({ db, demo, host, names, key, pages }));

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
  console.log(`Its data is in ${folder}; a copy is made every day in ${backupsIn(folder)}, the last seven are kept.`);
});

/** A copy that could not be made is told, and tried again: it stops nothing. */
const copy = (): void =>
  void backUpDaily(folder).catch((error: Error) =>
    console.error(`wispen: today's copy of the data could not be made: ${diskTrouble(error) ?? error.message}`),
  );
copy();
const hourly = setInterval(copy, 60 * 60 * 1000);

let stopping = false;
function shutDown(): void {
  if (stopping) return;
  stopping = true;
  clearInterval(hourly);
  server.close(() => void db.close().then(() => process.exit(0)));
  server.closeAllConnections();
}
process.on('SIGINT', shutDown);
process.on('SIGTERM', shutDown);
