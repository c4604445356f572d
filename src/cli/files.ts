/** Writing what the command line makes: whole or not at all, and nobody else's files are touched. */
import { mkdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { BadInput } from './input.js';

/** Why the system refuses, without its codes. */
function reason(error: unknown, path: string): string {
  const { code, message } = error as NodeJS.ErrnoException;
  switch (code) {
    case 'EISDIR':
      return `${path} is a folder.`;
    case 'ENOTDIR':
    case 'EEXIST':
      return `${path} lies in what is no folder, or is a file itself.`;
    case 'ENOSPC':
    case 'EDQUOT':
    case 'EFBIG':
      return `${path} cannot be written: the disk is full.`;
    case 'EACCES':
    case 'EPERM':
    case 'EROFS':
      return `${path} cannot be written: that is not allowed here.`;
    default:
      return `${path} cannot be written: ${message}.`;
  }
}

/** Where a file is written before it bears its name: no name that anybody else would choose. */
export const partOf = (path: string): string => `${path}.${process.pid}.part`;

/** @throws BadInput */
export function folderFor(path: string): void {
  try {
    mkdirSync(path, { recursive: true });
  } catch (error) {
    throw new BadInput(reason(error, path));
  }
}

/** Writes beside the target first: whatever happens, a file of its name is whole. @throws BadInput */
export function writeWhole(path: string, content: string | Uint8Array): void {
  const part = partOf(path);
  try {
    if (statSync(path, { throwIfNoEntry: false })?.isDirectory()) throw Object.assign(new Error(), { code: 'EISDIR' });
    writeFileSync(part, content);
    renameSync(part, path);
  } catch (error) {
    rmSync(part, { force: true });
    throw new BadInput(reason(error, path));
  }
}

/** Writes a file into a folder and prints its path. @throws BadInput */
export function give(folder: string, name: string, content: string | Uint8Array): void {
  const path = join(folder, name);
  writeWhole(path, content);
  console.log(path);
}
