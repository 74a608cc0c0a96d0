import { type Grant, type Role, roles } from './may.ts';

/** Whether somebody with these grants must have a second factor, where the installation demands one from a role on; null demands none. */
export function isFactorDemanded(from: Role | null, grants: readonly Grant[]): boolean {
  if (from === null) return false;
  return grants.some(({ role }) => roles.indexOf(role) >= roles.indexOf(from));
}

/** Letters and digits that are not taken for each other. Source: Crockford's base 32. */
const letters = '0123456789abcdefghjkmnpqrstvwxyz';
const lettersOfWord = 12;

/** A word for whoever lost what makes their codes, such as `k3fm-9qwt-x2hd`: of random bytes, five bits of each. */
export function recoveryWord(bytes: Uint8Array): string {
  const all = [...bytes.subarray(0, lettersOfWord)].map((byte) => letters[byte % letters.length]);
  return [0, 4, 8].map((from) => all.slice(from, from + 4).join('')).join('-');
}

/** What somebody typed as the code of a second factor: digits of now, or a recovery word as it was shown. Undefined when it is neither. */
export function readFactorCode(
  text: string,
): { readonly kind: 'code' | 'word'; readonly text: string } | undefined {
  const plain = text.toLowerCase().replace(/[\s-]/g, '');
  if (/^\d{6}$/.test(plain)) return { kind: 'code', text: plain };
  // Whoever reads it from paper takes one letter for another: Crockford's reading.
  const word = plain.replace(/[il]/g, '1').replace(/o/g, '0');
  if (word.length !== lettersOfWord || [...word].some((one) => !letters.includes(one)))
    return undefined;
  return { kind: 'word', text: [0, 4, 8].map((from) => word.slice(from, from + 4)).join('-') };
}
