/** The buffer that a program reads an effect's numbers from. */

/** Puts a moment's numbers into it. */
export function upload(gl: WebGL2RenderingContext, buffer: WebGLBuffer, block: Float32Array<ArrayBuffer>): void {
  gl.bindBuffer(gl.UNIFORM_BUFFER, buffer);
  gl.bufferData(gl.UNIFORM_BUFFER, block, gl.DYNAMIC_DRAW);
  gl.bindBuffer(gl.UNIFORM_BUFFER, null);
}

/** What a mesh does before it is drawn: its program reads this buffer. */
export const binding = (gl: WebGL2RenderingContext, buffer: WebGLBuffer) => (): void =>
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, buffer);
