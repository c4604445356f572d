/** Tells the stages which bytes their meshes have: an asset's file is found by its name. */
import { createHash } from 'node:crypto';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PAINT_TYPE } from '../../src/core/formats/paintFile.js';
import { readStage, writeStage } from '../../src/core/scene/stage.js';

/** @param demo the folder of stages and meshes */
export function stampStages(demo: string): void {
  for (const file of readdirSync(join(demo, 'stages'))) {
    const path = join(demo, 'stages', file);
    const read = readStage(JSON.parse(readFileSync(path, 'utf8')));
    if (!read.ok) throw new Error(`${file}: ${read.problems[0]!.message}`);
    for (const asset of Object.values(read.stage.assets)) {
      const bytes = readFileSync(join(demo, asset.type === PAINT_TYPE ? 'paints' : 'meshes', asset.name));
      asset.sha256 = createHash('sha256').update(bytes).digest('hex');
      asset.size = bytes.length;
    }
    writeFileSync(path, writeStage(read.stage));
  }
}
