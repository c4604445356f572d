// A thread has no loader of its own: it registers the one the command runs under, then becomes the baking thread.
import { register } from 'tsx/esm/api';

register();
await import('./bakeWorker.ts');
