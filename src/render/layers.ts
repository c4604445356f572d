/** Which pass a prop is drawn in: the opaque scene, or over it once it can be read. */
export const OPAQUE = 0;
export const SEE_THROUGH = 1;
/** For a camera that draws shadows and nothing else. */
export const NOTHING = 2;
