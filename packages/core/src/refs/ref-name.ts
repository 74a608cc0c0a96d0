/** A full ref name such as `refs/heads/main`, at most 255 bytes. */
export type RefName = string & { readonly brand: 'RefName' };

/** The id of a commit: 40 hexadecimal digits (SHA-1) or 64 (SHA-256). */
export type CommitId = string & { readonly brand: 'CommitId' };

/** Reads a commit id. Undefined unless it is 40 or 64 lower-case hexadecimal digits. */
export function readCommitId(text: string): CommitId | undefined {
  return /^(?:[0-9a-f]{40}|[0-9a-f]{64})$/.test(text) ? (text as CommitId) : undefined;
}

/**
 * Reads a full ref name. Undefined if git would refuse it or it has no two slashes.
 * Source: git-check-ref-format(1), rules 1 to 10.
 */
export function readRefName(text: string): RefName | undefined {
  if (text.length === 0 || text.length > 255 || !text.startsWith('refs/')) return undefined;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: rule 4 forbids them by code.
  if (/[\x00-\x20\x7f~^:?*[\\]|\.\.|@\{|\/\/|\/\.|\.lock(?:\/|$)|[/.]$/.test(text))
    return undefined;
  return text.split('/').length >= 3 ? (text as RefName) : undefined;
}

/** The branch that a ref is, such as `main`; undefined for tags and others. */
export function branchOf(ref: RefName): string | undefined {
  return ref.startsWith('refs/heads/') ? ref.slice('refs/heads/'.length) : undefined;
}

/** The tag that a ref is, such as `v1.2`; undefined for branches and others. */
export function tagOf(ref: RefName): string | undefined {
  return ref.startsWith('refs/tags/') ? ref.slice('refs/tags/'.length) : undefined;
}

/** The ref name of a branch. Undefined if git would refuse it. */
export function refOfBranch(branch: string): RefName | undefined {
  return readRefName(`refs/heads/${branch}`);
}
