/** By which signal the decoding process ends itself where a file has been computed on for too long. */
export const TOO_LONG = 'SIGVTALRM';
