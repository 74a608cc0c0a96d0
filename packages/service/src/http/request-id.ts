import { randomUUID } from 'node:crypto';
import type { IncomingMessage } from 'node:http';

const ids = new WeakMap<IncomingMessage, string>();

/** The id of a call: in its reply, in the service's own log, and in what it decided. */
export function requestIdOf(req: IncomingMessage): string {
  const known = ids.get(req) ?? randomUUID();
  ids.set(req, known);
  return known;
}
