/** The decoding process: its work, its place behind others, and a watch over its memory from a thread of its own. */
import { setPriority } from 'node:os';
import { Worker } from 'node:worker_threads';
import workerpool from 'workerpool';
import * as work from './decode.js';

/** Ends the process, from beside whatever it is in the middle of: when it has grown too large, or its parent is gone. */
const WATCH = `
const { workerData } = require('node:worker_threads');
const parent = process.ppid;
setInterval(() => {
  if (process.memoryUsage.rss() > workerData || process.ppid !== parent) process.kill(process.pid, 'SIGKILL');
}, 15);`;

export function serve(): void {
  try {
    // Whoever else asks of the server is answered first.
    setPriority(10);
  } catch {
    // Not every system lets a process step back.
  }
  const most = Number(process.env.WISPEN_MEMORY_MB) * 1024 * 1024;
  new Worker(WATCH, { eval: true, workerData: most }).unref();
  workerpool.worker({ ...work });
}
