import { type AddressPattern, isFor, readPattern } from './address.ts';
import type { Move } from './serving-rules.ts';

interface Known {
  readonly place: number;
  readonly to: string;
}

/**
 * Makes what says where an address is moved to, by the first rule that is for it; `target` is the address as it was
 * asked. Single addresses are looked up, since a site can have thousands; the others are tried in their order.
 */
export function makeMoves(
  moved: readonly Move[],
): (address: string, target: string) => string | null {
  const single = new Map<string, Known>();
  const open: (Known & { readonly pattern: AddressPattern })[] = [];
  for (const [place, { from, to }] of moved.entries()) {
    const pattern = readPattern(from);
    const known = { place, to: written(to) };
    if (pattern.isOpen) open.push({ ...known, pattern });
    else if (!single.has(pattern.start)) single.set(pattern.start, known);
  }
  return (address, target) => {
    const one = single.get(address);
    const other = open.find(({ pattern }) => isFor(pattern, address));
    if (one !== undefined && (other === undefined || one.place < other.place)) return one.to;
    if (other === undefined) return null;
    if (!other.to.endsWith('/*')) return other.to;
    const to = `${other.to.slice(0, -1)}${restOf(target, other.pattern)}`;
    // Two slashes in front, or one and a backslash, would be read as another host.
    return to.replaceAll('\\', '%5C').replace(/^\/{2,}/, '/');
  };
}

/** What stands in a target for the `*` of a pattern, encoded as it came: as many segments are left out as the pattern has. */
function restOf(target: string, { start }: AddressPattern): string {
  return target
    .split('/')
    .slice(start.split('/').length - 1)
    .join('/');
}

/** A target of a rule as it can stand in a header field: what is not ASCII is encoded, what is encoded stays. */
function written(to: string): string {
  return to.replace(/[^\x21-\x7e]+|["<>\\^`{|}]/gu, (text) => encodeURIComponent(text));
}
