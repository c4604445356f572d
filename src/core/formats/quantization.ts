/** Positions, normals and uv in whole numbers (Khronos KHR_mesh_quantization): what that says of accessors needs nothing else. */
import { Extension } from '@gltf-transform/core';

export class Quantization extends Extension {
  static override readonly EXTENSION_NAME = 'KHR_mesh_quantization';
  override readonly extensionName = Quantization.EXTENSION_NAME;

  override read(): this {
    return this;
  }

  override write(): this {
    return this;
  }
}
