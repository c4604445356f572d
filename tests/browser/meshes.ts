/** Meshes of another library, and dropping them on the stage. */
import type { Page } from '@playwright/test';
import type { Mesh } from 'three';
import { GLTFExporter } from 'three/examples/jsm/exporters/GLTFExporter.js';

/** A mesh file made by another library; the exporter needs a reader that Node does not have. */
export async function meshFile(mesh: Mesh): Promise<Buffer> {
  class Reader {
    result: ArrayBuffer | null = null;
    onloadend: (() => void) | null = null;
    readAsArrayBuffer = (blob: Blob) => void blob.arrayBuffer().then((bytes) => ((this.result = bytes), this.onloadend?.()));
  }
  Object.assign(globalThis, { FileReader: Reader });
  return Buffer.from((await new GLTFExporter().parseAsync(mesh, { binary: true })) as ArrayBuffer);
}

export async function dropOnStage(page: Page, name: string, bytes: Buffer): Promise<void> {
  const transfer = await page.evaluateHandle(
    ([file, base64]) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(atob(base64!), (c) => c.charCodeAt(0))], file!));
      return data;
    },
    [name, bytes.toString('base64')],
  );
  await page.getByRole('region', { name: 'Stage', exact: true }).dispatchEvent('drop', { dataTransfer: transfer });
}
