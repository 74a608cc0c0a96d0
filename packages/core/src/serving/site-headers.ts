import { pathMatcher } from '../recipes/glob.ts';
import { readAddress } from './address.ts';
import type { HeaderRule, ServingRules } from './serving-rules.ts';

/**
 * Fields that a site cannot set, by what they would break: they say how an answer is framed, cut, compressed or
 * compared, which only whoever sends it knows. Source: RFC 9110 sections 6 to 15, RFC 9112 sections 6 and 9.
 */
const ownFields: Readonly<Record<string, string>> = {
  'set-cookie': 'a site of files knows nobody, and its answers are kept for others',
  'content-length': 'it frames the answer',
  'transfer-encoding': 'it frames the answer',
  trailer: 'it frames the answer',
  te: 'it frames the answer',
  connection: 'it is about the connection',
  'keep-alive': 'it is about the connection',
  'proxy-connection': 'it is about the connection',
  upgrade: 'it is about the connection',
  'alt-svc': 'it sends visitors elsewhere for longer than the deploy is live',
  'http2-settings': 'it is about the connection',
  'proxy-authenticate': 'it is about the connection',
  'content-encoding': 'the edge compresses',
  'content-range': 'the edge cuts',
  'accept-ranges': 'the edge cuts',
  etag: 'the edge says what the bytes are',
  'last-modified': 'the edge says what the bytes are',
  date: 'the edge says when',
  age: 'the edge says when',
  allow: 'the edge says which methods it answers',
  location: 'moved says where something went',
};

/** Why a site cannot set a field, or null when it can. */
export function fieldFault(name: string, value: string): string | null {
  const lower = name.toLowerCase();
  if (!/^[!#$%&'*+.^_`|~0-9a-z-]{1,100}$/.test(lower)) return 'is no name of a header field';
  if (lower.startsWith('vaquero-')) return 'is kept for what Vaquero itself says';
  const why = Object.hasOwn(ownFields, lower) ? ownFields[lower] : undefined;
  if (why !== undefined) return `cannot be set: ${why}`;
  if (!/^[\x20-\x7e]{0,4000}$/.test(value)) return 'takes up to 4,000 printable ASCII characters';
  return null;
}

/** Says the fields of an address: all rules that match, of one that is said twice the later. Names are in lower case. */
export type FieldsAt = (address: string) => ReadonlyMap<string, string>;

const none: ReadonlyMap<string, string> = new Map();

/** Makes what says the fields of request targets. */
export function makeFields(headers: readonly HeaderRule[]): FieldsAt {
  if (headers.length === 0) return () => none;
  const rules = headers.map(({ at, fields }) => ({
    isFor: pathMatcher(at.slice(1)),
    fields: Object.entries(fields).map(([name, value]) => [name.toLowerCase(), value] as const),
  }));
  return (target) => {
    const path = readAddress(target)?.slice(1);
    if (path === undefined) return none;
    const segments = path.split('/');
    const found = new Map<string, string>();
    for (const rule of rules)
      if (rule.isFor(path, segments))
        for (const [name, value] of rule.fields) found.set(name, value);
    return found;
  };
}

/** Makes what says whether a published file never changes under its address. */
export function makeImmutable({
  base,
  immutable,
}: Pick<ServingRules, 'base' | 'immutable'>): (path: string) => boolean {
  if (immutable.length === 0) return () => false;
  const matchers = immutable.map((pattern) => pathMatcher(pattern.slice(1)));
  return (path) => {
    const address = `${base}${path}`.slice(1);
    const segments = address.split('/');
    return matchers.some((isFor) => isFor(address, segments));
  };
}
