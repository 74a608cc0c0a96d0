/** Takes a file that is not there for none; a file that cannot be read is a failure all the same. */
export function absent(error: unknown): undefined {
  if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return undefined;
  throw error;
}
