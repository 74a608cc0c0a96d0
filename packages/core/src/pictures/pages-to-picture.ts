import { type FileChange, isPage } from '../artifacts/compare-files.ts';
import type { SiteFile } from '../artifacts/manifest.ts';

/** A page that is pictured, by its path in either artifact; null where it is not there. */
export interface PageToPicture {
  readonly before: string | null;
  readonly after: string | null;
}

/** So many pages are pictured of two artifacts. */
export const mostPictured = 10;

/** Files that pages look by: with others of those a page looks otherwise while its own bytes are the same. */
const looks = /\.(?:css|m?js|svg|png|jpe?g|gif|webp|avif|ico|woff2?|ttf|otf)$/i;

/**
 * Which pages two artifacts are pictured by: those that differ, and, where a style, a script or a picture does, others
 * that may look otherwise by it; the entry first, then those nearest to the top.
 */
export function pagesToPicture(
  changes: readonly FileChange[],
  after: readonly SiteFile[],
  entry: string,
): readonly PageToPicture[] {
  const differing = changes
    .filter(({ path }) => isPage(path))
    .map(({ path, how, from }) => ({
      before: how === 'added' ? null : (from ?? path),
      after: how === 'removed' ? null : path,
    }));
  const named = new Set(changes.map(({ path }) => path));
  const others = changes.some(({ path }) => looks.test(path))
    ? after
        .filter(({ path }) => isPage(path) && !named.has(path))
        .map(({ path }) => ({ before: path as string, after: path as string }))
    : [];
  const inOrder = (pages: readonly PageToPicture[]): readonly PageToPicture[] =>
    pages.toSorted((one, other) => {
      const [a, b] = [pathOf(one), pathOf(other)];
      return rankOf(a, entry) - rankOf(b, entry) || (a < b ? -1 : 1);
    });
  return [...inOrder(differing), ...inOrder(others)].slice(0, mostPictured);
}

function pathOf({ before, after }: PageToPicture): string {
  return after ?? before ?? '';
}

/** The entry before all others, then by how deep a page lies. */
function rankOf(path: string, entry: string): number {
  return path === entry ? 0 : path.split('/').length;
}
