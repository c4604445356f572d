// A thread has no loader of its own: it registers the one the server runs under, then becomes the checking thread.
import { register } from 'tsx/esm/api';

register();
const { check } = await import('./checkFile.ts');
export default check;
