import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';

const algorithm = 'aes-256-gcm';
const nonceBytes = 12;
const tagBytes = 16;

/**
 * Seals a value: nonce, tag, ciphertext. `place` (project, environment and name) is authenticated with
 * it, so that a row cannot be given another's value. Source: NIST SP 800-38D, section 8.2.2.
 */
export function sealValue(key: Buffer, place: string, value: string): Buffer {
  const nonce = randomBytes(nonceBytes);
  const cipher = createCipheriv(algorithm, key, nonce);
  cipher.setAAD(Buffer.from(place));
  const text = Buffer.concat([cipher.update(value, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), text]);
}

/** Opens a sealed value. Throws when the key is another or the row was changed. */
export function openValue(key: Buffer, place: string, sealed: Buffer): string {
  const decipher = createDecipheriv(algorithm, key, sealed.subarray(0, nonceBytes));
  decipher.setAAD(Buffer.from(place));
  decipher.setAuthTag(sealed.subarray(nonceBytes, nonceBytes + tagBytes));
  const text = sealed.subarray(nonceBytes + tagBytes);
  return Buffer.concat([decipher.update(text), decipher.final()]).toString('utf8');
}
