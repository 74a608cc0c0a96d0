import type { ServingRules } from '../artifacts/manifest.ts';

/** What an artifact answers to a request path. */
export type Answer =
  | { readonly kind: 'file'; readonly path: string; readonly status: 200 | 404 }
  | { readonly kind: 'moved'; readonly to: string }
  | { readonly kind: 'absent' }
  | { readonly kind: 'malformed' };

/**
 * Resolves the path of a request target (without query) against the files of one artifact.
 * A path is decoded once and only ever looked up in the set of published paths, so no spelling of it
 * can reach anything else; a folder without its slash is moved to the one with it (308).
 * Source: RFC 3986 sections 2.1, 3.3 and 6.2.2.
 */
export function resolvePath(
  has: (path: string) => boolean,
  rules: ServingRules,
  target: string,
): Answer {
  const path = decoded(target);
  if (path === undefined || !path.startsWith('/')) return { kind: 'malformed' };
  const inside = path.slice(1);
  if (inside !== '' && !inside.endsWith('/')) {
    if (has(inside)) return { kind: 'file', path: inside, status: 200 };
    if (has(`${inside}/${rules.entry}`)) return { kind: 'moved', to: `${inPlace(target)}/` };
  } else if (has(`${inside}${rules.entry}`)) {
    return { kind: 'file', path: `${inside}${rules.entry}`, status: 200 };
  }
  if (rules.missing !== null && has(rules.missing)) {
    return { kind: 'file', path: rules.missing, status: 404 };
  }
  return { kind: 'absent' };
}

/** A path such as `//elsewhere` would be read as another host when sent back in a Location header. */
function inPlace(target: string): string {
  return `/${target.replace(/^\/+/, '')}`;
}

function decoded(target: string): string | undefined {
  try {
    const path = decodeURIComponent(target);
    return path.includes('\0') ? undefined : path;
  } catch {
    // decodeURIComponent throws on a malformed escape only (ECMA-262 section 19.2.6.1); the caller says so.
    return undefined;
  }
}
