import { auditRoutes, type ProjectEvent } from '@vaquero/contracts';
import { type Instant, type ReadEntry, traitsOf } from '@vaquero/core';
import type { Express, Request, Response } from 'express';
import { entriesBetween, newestEntries, reasonsOf } from '../audit/log-entry-rows.ts';
import type { Deps } from '../base/deps.ts';
import { whenClosed } from '../base/when-closed.ts';
import { whileSignedIn } from '../callers/while-signed-in.ts';
import { seenBy } from '../callers/who-calls.ts';
import { serve } from '../http/serve-route.ts';
import { type Caller, maySee } from '../people/caller.ts';
import { projectByName } from '../projects/project-rows.ts';

/** Serves the log of a project, and the stream of what is decided. */
export function serveAudit(app: Express, deps: Deps): void {
  serve(app, deps, auditRoutes.auditRoute, async ({ project, query }) => {
    const before = query.before ?? Number.MAX_SAFE_INTEGER;
    const rows = await newestEntries(deps.db, project.id, before, query.limit + 1);
    const shown = rows.slice(0, query.limit);
    const reasons = await reasonsOf(
      deps.db,
      shown.map((row) => row.position),
    );
    const entries = shown.map((row) => ({
      position: row.position,
      at: row.at as Instant,
      kind: row.kind,
      bytes: row.bytes,
      leaf: row.leaf,
      why: reasons.get(row.position) ?? null,
    }));
    return { entries, more: rows.length > query.limit };
  });
  serve(app, deps, auditRoutes.eventsRoute, async ({ query, caller, req, res }) => {
    const only =
      query.project === undefined
        ? null
        : seenBy(caller, await projectByName(deps.db, query.project), query.project).id;
    await streamEvents(deps, { caller, only, req, res });
    return undefined;
  });
}

/** So much is told again to who comes back; more than that, they are told to ask for everything anew. */
const mostAgain = 1000;
/** Who reads more slowly than things happen is cut off, and goes on where they were. */
const mostUnreadBytes = 1 << 20;
const aliveEveryMs = 15_000;

interface Listening {
  readonly caller: Caller;
  /** The one project that is listened to; null for all that the caller may see. */
  readonly only: string | null;
  readonly req: Request;
  readonly res: Response;
}

/**
 * Tells what the log says from where somebody left it (`Last-Event-ID`), in its order and without a gap, and in between
 * what passes without a decision. The id of an event is its position in the log, whichever api process tells it.
 */
async function streamEvents(deps: Deps, { caller, only, req, res }: Listening): Promise<void> {
  whileSignedIn(deps, caller, res);
  res.writeHead(200, {
    'content-type': 'text/event-stream; charset=utf-8',
    'cache-control': 'no-store',
    'x-accel-buffering': 'no',
  });
  let sent = positionIn(req) ?? deps.follower.seen().position;
  const write = (text: string): void => {
    res.write(text);
    if (res.writableLength > mostUnreadBytes) res.destroy();
  };
  const mayHear = (id: string): boolean => (only === null ? maySee(caller, id) : id === only);
  const tell = (entry: ReadEntry): void => {
    if (entry.position <= sent) return;
    sent = entry.position;
    const event = eventOf(entry);
    if (event !== null && mayHear(entry.project?.id ?? '')) write(`id: ${sent}\n${dataOf(event)}`);
  };
  // What is decided while the past is read waits for it.
  let waiting: ReadEntry[] | null = [];
  const quit = deps.follower.listen((entry) =>
    waiting === null ? tell(entry) : waiting.push(entry),
  );
  const quitNews = deps.news.listen(({ project, what, build }) => {
    if (project !== null && !mayHear(project.id)) return;
    write(
      dataOf({ project: project?.name ?? null, what, ...(build === undefined ? {} : { build }) }),
    );
  });
  const alive = setInterval(() => write(`id: ${sent}\n: alive\n\n`), aliveEveryMs);
  whenClosed(res, () => {
    clearInterval(alive);
    quit();
    quitNews();
  });
  write(`id: ${sent}\n: what changes, from here on\n\n`);
  // Who comes from another api process may have heard more than this one has read.
  if (sent > deps.follower.seen().position) await deps.follower.catchUp();
  const { position } = deps.follower.seen();
  const past = await entriesBetween(deps.db, sent, position, mostAgain + 1);
  if (past.length > mostAgain || sent > position) {
    sent = position;
    write(`id: ${sent}\nevent: everything\ndata: {}\n\n`);
  } else for (const entry of past) tell(entry);
  for (const entry of waiting) tell(entry);
  waiting = null;
  await new Promise<void>((resolve) => whenClosed(res, resolve));
}

/** Where somebody who comes back left off. */
function positionIn(req: Request): number | null {
  const id = req.headers['last-event-id'];
  return typeof id === 'string' && /^\d{1,15}$/.test(id) ? Number(id) : null;
}

function eventOf({ kind, project, facts }: ReadEntry): ProjectEvent | null {
  const what = traitsOf(kind).shows;
  if (what === null || project === null) return null;
  const { build } = facts;
  return { project: project.name, what, ...(typeof build === 'number' ? { build } : {}) };
}

function dataOf(event: ProjectEvent): string {
  return `data: ${JSON.stringify(event)}\n\n`;
}
