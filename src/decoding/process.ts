/** The decoding process: its work, its place behind others, and a watch over its memory from a thread of its own. */
import { setPriority } from 'node:os';
import { Worker } from 'node:worker_threads';
import workerpool from 'workerpool';
import * as work from './decode.js';
import { TOO_LONG } from './signals.js';

/**
 * Ends the process, from beside whatever it is in the middle of: when it has grown too large, has computed for too long
 * for one file, or its parent is gone. What others on the machine take of the time is not the file's fault.
 */
const WATCH = `
const { workerData: { most, longest, turn } } = require('node:worker_threads');
const parent = process.ppid;
let current = -1;
let began = 0;
setInterval(() => {
  const { user, system } = process.cpuUsage();
  const computed = (user + system) / 1000;
  if (Atomics.load(turn, 0) !== current) {
    current = Atomics.load(turn, 0);
    began = computed;
  }
  if (process.memoryUsage.rss() > most || process.ppid !== parent) process.kill(process.pid, 'SIGKILL');
  if (computed - began > longest) process.kill(process.pid, '${TOO_LONG}');
}, 15);`;

export function serve(): void {
  try {
    // Whoever else asks of the server is answered first.
    setPriority(10);
  } catch {
    // Not every system lets a process step back.
  }
  const turn = new Int32Array(new SharedArrayBuffer(4));
  const most = Number(process.env.WISPEN_MEMORY_MB) * 1024 * 1024;
  new Worker(WATCH, { eval: true, workerData: { most, longest: Number(process.env.WISPEN_LONGEST_MS), turn } }).unref();
  const counted = Object.entries(work).map(([name, method]) => [
    name,
    (...args: unknown[]) => {
      Atomics.add(turn, 0, 1);
      return (method as (...a: unknown[]) => unknown)(...args);
    },
  ]);
  workerpool.worker(Object.fromEntries(counted) as Record<string, (...args: unknown[]) => unknown>);
}
