/**
 * The folder of a host that a site is built for, told by what its pages ask for: absolute paths of which none is there,
 * and all are once the same beginning is left out. Null when nothing speaks for one.
 */
export function missedBase(
  has: (path: string) => boolean,
  references: readonly string[],
): string | null {
  const paths = references.flatMap((to) => {
    const [path = ''] = to.split(/[?#]/, 1);
    return /^\/[^/]/.test(path) ? [path.slice(1)] : [];
  });
  const [first] = paths;
  if (first === undefined || paths.some(has)) return null;
  const parts = first.split('/');
  for (let count = 1; count < parts.length; count += 1) {
    const base = `${parts.slice(0, count).join('/')}/`;
    const isFound = paths.every((path) => path.startsWith(base) && has(path.slice(base.length)));
    if (isFound && /^(?:[\w.~-]+\/)+$/.test(base)) return `/${base}`;
  }
  return null;
}
