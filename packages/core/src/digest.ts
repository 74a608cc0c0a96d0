/** A SHA-256 digest as 64 lower-case hexadecimal digits. */
export type Digest = string & { readonly brand: 'Digest' };

/** Hashes bytes given as UTF-8 text; core has no hash of its own, its callers bring one. */
export type Sha256 = (text: string) => Digest;

/** Reads a SHA-256 digest. Undefined unless it is 64 lower-case hexadecimal digits. */
export function readDigest(text: string): Digest | undefined {
  return /^[0-9a-f]{64}$/.test(text) ? (text as Digest) : undefined;
}

const alphabet = 'abcdefghijklmnopqrstuvwxyz234567';

/**
 * The host label of an artifact: its digest in lower-case base32 without padding, 52 characters.
 * Source: RFC 4648 section 6; a host label holds at most 63 (RFC 1035 section 2.3.4).
 */
export function hostLabelOf(digest: Digest): string {
  let bits = '';
  for (const digit of digest) bits += Number.parseInt(digit, 16).toString(2).padStart(4, '0');
  let label = '';
  for (let at = 0; at < bits.length; at += 5) {
    label += alphabet.charAt(Number.parseInt(bits.slice(at, at + 5).padEnd(5, '0'), 2));
  }
  return label;
}

/** Reads a host label made by `hostLabelOf`. Undefined for any other text. */
export function readHostLabel(label: string): Digest | undefined {
  if (!/^[a-z2-7]{52}$/.test(label)) return undefined;
  let bits = '';
  for (const letter of label) bits += alphabet.indexOf(letter).toString(2).padStart(5, '0');
  if (bits.slice(256).includes('1')) return undefined;
  let hex = '';
  for (let at = 0; at < 256; at += 4) {
    hex += Number.parseInt(bits.slice(at, at + 4), 2).toString(16);
  }
  return readDigest(hex);
}
/** Whether a text is an id of our making: a UUID (RFC 9562) in small letters. */
export function isId(text: string): boolean {
  return /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text);
}
