/** Where mesh files are chosen, with those that belong to them; pressed by a button or an entry of a menu. */
import type { RefObject } from 'react';

interface Props {
  readonly input: RefObject<HTMLInputElement | null>;
  readonly onFile: (files: readonly File[]) => void;
}

export const MeshFileInput = ({ input, onFile }: Props) => (
  <input
    ref={input}
    type="file"
    accept=".glb,.gltf,.bin,.obj,.ply,.png,.jpg,.jpeg"
    multiple
    className="hidden"
    aria-label="Mesh file"
    onChange={(e) => {
      const picked = [...(e.currentTarget.files ?? [])];
      if (picked.length > 0) onFile(picked);
      e.currentTarget.value = '';
    }}
  />
);
