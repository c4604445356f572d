/** How a strip is laid out: frames from left to right, then downwards. */
export const STRIP_ACROSS = 6;
export const STRIP_DOWN = 4;
export const STRIP_FRAMES = STRIP_ACROSS * STRIP_DOWN;
/** One frame, in pixels: a Library card's picture. */
export const STRIP_WIDTH = 296;
export const STRIP_HEIGHT = 144;
/** Seconds that an effect which runs on is shown for. */
export const STRIP_SPAN = 6;
