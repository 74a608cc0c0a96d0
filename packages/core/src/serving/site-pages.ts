import { writeAddress } from './address.ts';
import type { ServingRules } from './serving-rules.ts';

/** A published file, or the address that holds for it. */
type SiteAnswer =
  | {
      readonly kind: 'file';
      readonly path: string;
      readonly status: 200 | 404;
      readonly by: 'site';
    }
  | { readonly kind: 'moved'; readonly to: string };

/** Says what the site itself has at an address; null when it has nothing there. */
export type SiteAt = (address: string) => SiteAnswer | null;

const ending = '.html';

/** Makes what finds published files by their address, and the address that holds for those asked by another. */
export function makeSite(has: (path: string) => boolean, rules: ServingRules): SiteAt {
  const { base, entry, missing } = rules;
  const file = (path: string): SiteAnswer => ({
    kind: 'file',
    path,
    status: path === missing ? 404 : 200,
    by: 'site',
  });
  const moved = (inside: string): SiteAnswer => ({
    kind: 'moved',
    to: writeAddress(`${base}${inside}`),
  });
  /** The folder whose page a path is. */
  const folderOf = (path: string): string | null =>
    path === entry || path.endsWith(`/${entry}`) ? path.slice(0, -entry.length) : null;
  const toFolder = (inside: string): SiteAnswer | null =>
    has(`${inside}/${entry}`) ? moved(`${inside}/`) : null;

  /** A folder is answered by its page; a page that was asked for as a folder is found beside it. */
  const inFolder = (inside: string): SiteAnswer | null => {
    if (has(`${inside}${entry}`)) return file(`${inside}${entry}`);
    const bare = inside.slice(0, -1);
    const isPage = rules.endings === 'left-out' && isBare(bare) && has(`${bare}${ending}`);
    return isPage ? moved(bare) : null;
  };

  /** A file by its own path, unless it is a page that has a shorter address. */
  const byPath = (path: string): SiteAnswer => {
    if (rules.endings === 'kept' || path === missing) return file(path);
    const folder = folderOf(path);
    if (folder !== null) return moved(folder);
    const bare = path.endsWith(ending) ? path.slice(0, -ending.length) : '';
    return isBare(bare) && !has(bare) ? moved(bare) : file(path);
  };

  const withoutEnding = (bare: string): SiteAnswer | null => {
    const path = `${bare}${ending}`;
    if (rules.endings === 'kept' || !isBare(bare) || !has(path)) return toFolder(bare);
    const folder = folderOf(path);
    return folder === null ? file(path) : moved(folder);
  };

  return (address) => {
    if (!address.startsWith(base)) return isOnTheWay(address, base) ? moved('') : null;
    const inside = address.slice(base.length);
    if (inside === '' || inside.endsWith('/')) return inFolder(inside);
    return has(inside) ? byPath(inside) : withoutEnding(inside);
  };
}

/** The bare host, and the base without its slash, lead to a site that is built for a folder. */
function isOnTheWay(address: string, base: string): boolean {
  return address === '/' || `${address}/` === base;
}

/** Whether a path can be a page's without its ending: a second ending, a folder or dots would be read otherwise. */
function isBare(path: string): boolean {
  const name = path.slice(path.lastIndexOf('/') + 1);
  return name !== '' && name !== '.' && name !== '..' && !name.endsWith(ending);
}
