/** A picture file that cannot be read; the message is the rest of a sentence that begins with the file's name. */
export class BadImage extends Error {}
