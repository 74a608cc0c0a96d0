/** Takes a file that somebody moved or removed first for none; one that cannot be reached is a failure all the same. */
export function unlessGone(error: NodeJS.ErrnoException): undefined {
  if (error.code === 'ENOENT') return undefined;
  throw error;
}
