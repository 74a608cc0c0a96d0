import type { Sha256 } from '../digest.ts';
import { nameOfPullRequest, nameOfRef, pullRequestOf } from '../refs/pull-request.ts';
import type { RefName } from '../refs/ref-name.ts';

const longest = 40;
const kept = 33;

/**
 * The name of a family's environment, which is also a label of its host: `pr-12`, or the branch in lower case with all
 * else as hyphens. Where that is empty, cut, or meant for something else, 33 characters of it and 6 digits of the ref's hash.
 */
export function familyName(
  ref: RefName,
  isTaken: (name: string) => boolean,
  sha256: Sha256,
): string {
  const number = pullRequestOf(ref);
  const plain = number === undefined ? slugOf(nameOfRef(ref)) : nameOfPullRequest(number);
  const isOwn = number !== undefined || !isMeantOtherwise(plain);
  if (plain !== '' && plain.length <= longest && isOwn && !isTaken(plain)) return plain;
  const stem = plain.slice(0, kept).replace(/-+$/, '');
  return `${stem === '' ? 'ref' : stem}-${sha256(ref).slice(0, 6)}`;
}

function slugOf(text: string): string {
  const slug = text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');
  // A host label may begin with a digit; the name of an environment does not.
  return /^\d/.test(slug) ? `v-${slug}` : slug;
}

/** Whether a name belongs to pull requests, or is how a build's artifact is said. */
export function isMeantOtherwise(name: string): boolean {
  return /^(?:pr|build)-\d+$/.test(name);
}
