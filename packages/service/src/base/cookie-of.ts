import type { IncomingMessage } from 'node:http';

/** A cookie of a request, if it carries one of that name. */
export function cookieOf(req: IncomingMessage, name: string): string | undefined {
  const pairs = (req.headers.cookie ?? '').split(';').map((pair) => pair.trim());
  return pairs.find((pair) => pair.startsWith(`${name}=`))?.slice(name.length + 1);
}
