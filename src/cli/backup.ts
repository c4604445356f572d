/** `wispen backup` and `wispen restore`: a copy of the data folder, and putting one back. */
import { join, resolve } from 'node:path';
import { backUp, backupsIn, restore, stampOf } from '../store/backups.js';
import { DATA_FOLDER } from '../store/place.js';
import { FolderTrouble, diskTrouble } from '../store/trouble.js';
import { BadInput } from './input.js';

const folderOf = (data: string | undefined): string => resolve(data ?? DATA_FOLDER);

/** What goes wrong with the folder or the disk is the input's fault. */
async function told<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof FolderTrouble) throw new BadInput(error.message);
    const disk = diskTrouble(error);
    if (disk) throw new BadInput(`${disk} Nothing was changed.`);
    throw error;
  }
}

/** @param out a folder that is not there yet; else one among the data folder's backups */
export async function backUpTo(data: string | undefined, out: string | undefined): Promise<number> {
  const folder = folderOf(data);
  const to = out === undefined ? join(backupsIn(folder), `${stampOf(Date.now())}-asked-for`) : resolve(out);
  await told(() => backUp(folder, to));
  console.log(to);
  return 0;
}

export async function putBack(backup: string, data: string | undefined): Promise<number> {
  const folder = folderOf(data);
  const aside = await told(() => restore(folder, resolve(backup)));
  console.log(folder);
  if (aside) console.error(`What was there before is kept as ${aside}.`);
  return 0;
}
