/** Takes a file that is not there for none; a file that cannot be read is a failure all the same. */
export function noneIfAbsent(error: unknown): undefined {
  if (
    error instanceof Error &&
    'code' in error &&
    (error.code === 'ENOENT' || error.code === 'ENOTDIR')
  )
    return undefined;
  throw error;
}
