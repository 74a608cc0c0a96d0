/** Where a build sees its repository. */
const inside = '/build/';

/**
 * The repository's path of a file that a report names: absolute as the build saw it, as an address, or relative.
 * What lies outside of it stays as it is written.
 */
export function repositoryPath(written: string): string {
  const plain = written.replace(/^file:\/\/(?:localhost)?(?=\/)/, '');
  const path = plain === written && !/%[0-9a-f]{2}/i.test(plain) ? plain : decoded(plain);
  return (path.startsWith(inside) ? path.slice(inside.length) : path).replace(/^\.\//, '');
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    // A percent sign that escapes nothing stands for itself.
    return text;
  }
}

/** So much of what a test says is looked through for a place. */
const mostRead = 4000;
/** A file with a line, as stacks of many runtimes write it. */
const form = /(?:file:\/\/)?((?:\/|[\w@.-])[\w@./+-]*\.[A-Za-z]\w{0,9}):(\d{1,7})(?::\d+)?/g;

/** The first place inside the repository that a stack names, as `path:line`; null when it names none. */
export function placeInStack(stack: string): string | null {
  for (const [, file = '', line] of stack.slice(0, mostRead).matchAll(form)) {
    const isInside = file.startsWith(inside) || !file.startsWith('/');
    if (isInside && !file.includes('node_modules/') && !file.startsWith('node:'))
      return `${repositoryPath(file)}:${line}`;
  }
  return null;
}
