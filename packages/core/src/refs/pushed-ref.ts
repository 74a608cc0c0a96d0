import { controlFault } from '../control-characters.ts';
import { readCommitId, readRefName } from './ref-name.ts';

/** Names that Git gives to other things than branches, or that stand for whatever it looked at last. */
const special = /^(?:[A-Z]+_)?HEAD$|^@$/;

/**
 * Why a ref may not be pushed, or null. Only branches and tags are taken: other refs replace objects, add notes or are
 * the service's own. A name that could be taken for another ref, a commit or an option is none either.
 */
export function pushedRefFault(name: string): string | null {
  const [, kind, short = ''] = /^refs\/(heads|tags)\/(.*)$/s.exec(name) ?? [];
  if (kind === undefined) return 'only branches and tags are taken here';
  if (readRefName(name) === undefined || controlFault(name, 'line') !== null)
    return 'that is no name that a branch or a tag can have';
  if (short.startsWith('refs/')) return 'the name begins with refs/ twice';
  if (special.test(short)) return `${short} is Git’s own word for something else`;
  if (short.startsWith('-')) return 'a name that begins with - looks like an option';
  if (readCommitId(short.toLowerCase()) !== undefined) return 'that name looks like a commit id';
  return null;
}
