import { createHash } from 'node:crypto';
import type { Digest } from '@vaquero/core';

export function sha256(text: string): Digest {
  return createHash('sha256').update(text, 'utf8').digest('hex') as Digest;
}
