import { z } from 'zod';

// The service forbids code made from text (script-src 'self'). Imported before any schema is made: without it
// each would try, and be told no, in the reader's console.
z.config({ jitless: true });
