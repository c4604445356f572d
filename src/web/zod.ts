/** Must be imported before any schema is made: Zod would otherwise try `new Function`, which the policy forbids. */
import { z } from 'zod';

z.config({ jitless: true });
