import { isFor, readAddress, readPattern } from './address.ts';
import { makeMoves } from './moves.ts';
import { mayBePage } from './page-address.ts';
import type { ServingRules } from './serving-rules.ts';
import { makeSite, type SiteAt } from './site-pages.ts';

/** What an artifact answers to a request path. */
export type Answer =
  | {
      readonly kind: 'file';
      readonly path: string;
      readonly status: 200 | 404;
      /** Which rule found it. */
      readonly by: 'site' | 'instead' | 'missing';
    }
  /** `to` is a path of this host, or an address elsewhere; the query of the request is added to it. */
  | { readonly kind: 'moved'; readonly to: string }
  | { readonly kind: 'absent' }
  | { readonly kind: 'malformed' };

/** Answers the path of a request target (without its query) for one artifact. */
export type Resolver = (target: string) => Answer;

/** So many moves behind each other are followed; more are taken for a circle. */
const mostMoves = 10;

/**
 * Makes what resolves paths against the files of one artifact, in this order: moved, site, instead, missing.
 * A path is only ever looked up in the set of published paths, so no spelling of it reaches anything else. Moves are
 * followed to their end here, and one that leads into a circle does not hold: whoever follows an answer arrives.
 */
export function makeResolver(has: (path: string) => boolean, rules: ServingRules): Resolver {
  const moveOf = makeMoves(rules.moved);
  const siteAt = makeSite(has, rules);
  const insteadAt = makeInstead(siteAt, rules);
  const { missing } = rules;
  const missed: Answer =
    missing !== null && has(missing)
      ? { kind: 'file', path: missing, status: 404, by: 'missing' }
      : { kind: 'absent' };

  /** Where the next answer would send whoever asks; null where it would not. */
  const nextOf = (address: string, target: string): string | null => {
    const moved = moveOf(address, target);
    if (moved !== null) return moved;
    const page = siteAt(address);
    return page?.kind === 'moved' ? page.to : null;
  };

  return (target) => {
    const asked = readAddress(target);
    if (asked === null) return { kind: 'malformed' };
    const first = nextOf(asked, target);
    const to = first === null ? null : followed(asked, first, nextOf);
    if (to !== null) return { kind: 'moved', to };
    return siteAt(asked) ?? insteadAt(asked) ?? missed;
  };
}

/** Follows moves within the host to the last target, which moves no more; null when they go in a circle. */
function followed(
  asked: string,
  first: string,
  nextOf: (address: string, target: string) => string | null,
): string | null {
  const seen = new Set([asked]);
  let end = partsOf(first);
  for (;;) {
    if (!end.path.startsWith('/')) return writtenParts(end);
    const address = readAddress(end.path);
    if (address === null || seen.has(address) || seen.size > mostMoves) return null;
    seen.add(address);
    const next = nextOf(address, end.path);
    if (next === null) return writtenParts(end);
    end = withBehind(partsOf(next), end);
  }
}

/** A target, and what stands behind its path. */
interface Parts {
  readonly path: string;
  readonly query: string;
  readonly fragment: string;
}

/** Source: RFC 3986 section 3. */
function partsOf(to: string): Parts {
  const [, path = '', query = '', fragment = ''] = /^([^?#]*)(\?[^#]*)?(#.*)?$/.exec(to) ?? [];
  return { path, query, fragment };
}

function writtenParts({ path, query, fragment }: Parts): string {
  return `${path}${query}${fragment}`;
}

/** A target with the query of what led there, and with its fragment unless it has its own. */
function withBehind(target: Parts, { query, fragment }: Parts): Parts {
  return {
    path: target.path,
    query: target.query === '' ? query : `${target.query}${query.replace('?', '&')}`,
    fragment: target.fragment === '' ? fragment : target.fragment,
  };
}

/** A target with the query of the request that was moved. */
export function withQuery(to: string, query: string | undefined): string {
  if (query === undefined) return to;
  return writtenParts(withBehind(partsOf(to), { path: '', query: `?${query}`, fragment: '' }));
}

/** Finds the page that stands in for addresses that the site does not have. */
function makeInstead(
  siteAt: SiteAt,
  { instead }: ServingRules,
): (address: string) => Answer | null {
  const all = instead.flatMap(({ at, page }) => {
    const path = pageAt(siteAt, page);
    return path === null ? [] : [{ pattern: readPattern(at), path }];
  });
  return (address) => {
    if (all.length === 0 || !mayBePage(address)) return null;
    const found = all.find(({ pattern }) => isFor(pattern, address));
    return found === undefined
      ? null
      : { kind: 'file', path: found.path, status: 200, by: 'instead' };
  };
}

/** The file that an address of the site stands for, whichever of its addresses it is. */
function pageAt(siteAt: SiteAt, page: string): string | null {
  const answer = siteAt(readAddress(page) ?? '');
  const last = answer?.kind === 'moved' ? siteAt(readAddress(answer.to) ?? '') : answer;
  return last?.kind === 'file' ? last.path : null;
}
