// A process of its own has no loader yet: it registers the one the server runs under, then becomes the decoding process.
import { register } from 'tsx/esm/api';

register();
const { serve } = await import('./process.ts');
serve();
