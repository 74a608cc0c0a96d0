/**
 * The path of a request target, decoded once: two that decode to the same are the same address. An encoded slash
 * parts no segments, so it becomes what no file and no rule has (U+0000). Null for what is no path.
 * Source: RFC 3986 sections 2.1, 3.3 and 6.2.2.
 */
export function readAddress(target: string): string | null {
  if (!target.startsWith('/')) return null;
  if (!target.includes('%')) return target.includes('\0') ? null : target;
  try {
    const plain = decodeURIComponent(target.replace(/%2f/gi, '%01'));
    return plain.includes('\0') || /%01/.test(target) ? null : plain.replaceAll('\x01', '\0');
  } catch {
    // decodeURIComponent throws on a malformed escape only (ECMA-262 section 19.2.6.1); the caller says so.
    return null;
  }
}

/** An address as it stands in a request or in `Location`. */
export function writeAddress(address: string): string {
  return encodeURI(address).replace(/[?#]/g, encodeURIComponent).replaceAll('%00', '%2F');
}

/** Addresses that a rule is for: one, or all that begin alike when its last segment is `*`. */
export interface AddressPattern {
  readonly start: string;
  readonly isOpen: boolean;
}

/** Reads the pattern of a rule, which was checked when its recipe was read. */
export function readPattern(text: string): AddressPattern {
  const isOpen = text.endsWith('/*');
  return { start: readAddress(isOpen ? text.slice(0, -1) : text) ?? '', isOpen };
}

/** Whether a rule is for an address. */
export function isFor({ start, isOpen }: AddressPattern, address: string): boolean {
  return isOpen ? address.startsWith(start) : address === start;
}

/** Whether all addresses of one rule are also the other's. */
export function isWithin(inner: AddressPattern, outer: AddressPattern): boolean {
  return outer.isOpen
    ? inner.start.startsWith(outer.start)
    : !inner.isOpen && isFor(outer, inner.start);
}
