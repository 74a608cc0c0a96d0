import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Memory } from '../blobs/memory.ts';
import type { LiveTable, Place } from '../routing/live-table.ts';
import { isPlain } from './representation.ts';
import type { Visits } from './visits.ts';

/** An answer that was given in full and is the same each time, for as long as its place is in force. */
interface Whole {
  readonly list: readonly string[];
  /** By what its bytes are held in memory. */
  readonly key: string;
}

/** What giving an answer again takes. */
interface Answering {
  readonly table: LiveTable;
  readonly memory: Memory;
  readonly visits: Visits;
}

let given = new WeakMap<Place, Map<string, Whole>>();
let many = 0;
const mostGiven = 10_000;
/** Targets and words of what is accepted can be 16 KiB long; what people ask for is not. */
const longestKey = 500;

/** By what a request is told from others that are answered with other bytes: its target, and what it accepts. */
function keyOf(req: IncomingMessage): string {
  return `${req.url} ${req.headers['accept-encoding'] ?? ''}`;
}

/** Whether nothing of a request asks for more than the same again. */
function isUsual(req: IncomingMessage): boolean {
  return req.method === 'GET' && req.headers['vaquero-look'] === undefined && isPlain(req);
}

/** Keeps an answer for those who ask for the same. */
export function giveAgain(place: Place, req: IncomingMessage, whole: Whole): void {
  const key = keyOf(req);
  if (!isUsual(req) || key.length > longestKey) return;
  // Addresses that a page stands in for are without number: what is known is begun anew before it grows too large.
  if (many >= mostGiven) {
    given = new WeakMap();
    many = 0;
  }
  const known = given.get(place) ?? new Map<string, Whole>();
  known.set(key, whole);
  given.set(place, known);
  many += 1;
}

/** Answers at once what was answered before, without taking anything apart again; false when it was not. */
export function answeredAgain(
  { table, memory, visits }: Answering,
  req: IncomingMessage,
  res: ServerResponse,
): boolean {
  if (!isUsual(req)) return false;
  const place = table.knownPlace(req.headers.host ?? '');
  const whole = place === undefined ? undefined : given.get(place)?.get(keyOf(req));
  const body = whole === undefined ? undefined : memory.get(whole.key);
  if (place === undefined || whole === undefined || body === undefined) return false;
  res.writeHead(200, whole.list as string[]);
  res.end(body);
  if (place.kind === 'environment' && place.entry.deploy !== null) {
    const { project, environment, deploy } = place.entry;
    const path = req.url ?? '/';
    visits.count({
      project,
      environment,
      deploy,
      status: 200,
      bytes: body.length,
      tookMs: 0,
      path,
    });
  }
  return true;
}
