import { createHash } from 'node:crypto';
import type { Digest } from '@vaquero/core';

/** The SHA-256 of a text, in hexadecimal. */
export function sha256(text: string): Digest {
  return createHash('sha256').update(text, 'utf8').digest('hex') as Digest;
}
