import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { buildRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { latestAttempt } from '../builds/attempt-rows.ts';
import { buildAgain } from '../builds/build-again.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { buildByNumber } from '../builds/build-rows.ts';
import { cancelBuild } from '../builds/cancel-build.ts';
import { findLines } from '../builds/find-lines.ts';
import { findBuilds } from '../builds/found-build-rows.ts';
import { listBuilds } from '../builds/listed-build-rows.ts';
import { readPieces } from '../builds/log-rows.ts';
import { streamLog } from '../builds/stream-log.ts';
import { whileSignedIn } from '../callers/while-signed-in.ts';
import { endedBuilds } from '../completion/ended-build-rows.ts';
import type { Db } from '../database/pool.ts';
import { serve } from '../http/serve-route.ts';
import { authorsOf } from '../people/authors.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { viewBuild, viewRow } from '../views/view-build.ts';
import { serveAct } from './serve-act.ts';

/** Serves builds: the list, one, its log as text or as a stream, and building again. */
export function serveBuilds(app: Express, deps: Deps): void {
  serve(app, deps, buildRoutes.listBuildsRoute, async ({ project, query }) => {
    const rows = await listBuilds(
      deps.db,
      project.id,
      query.before ?? Number.MAX_SAFE_INTEGER,
      query.limit + 1,
    );
    return { builds: rows.slice(0, query.limit).map(viewRow), more: rows.length > query.limit };
  });
  serve(app, deps, buildRoutes.endedBuildsRoute, ({ caller, query }) =>
    endedBuilds(deps, caller, query.since),
  );
  serve(app, deps, buildRoutes.findBuildsRoute, async ({ project, query }) => {
    const found = await findBuilds(deps.db, project.id, query.text);
    return {
      builds: found.map(({ servedBy, ...row }) => ({ ...viewRow(row), servedBy: [...servedBy] })),
    };
  });
  serve(app, deps, buildRoutes.showBuildRoute, ({ project, params }) =>
    viewBuild(deps, project, params.build),
  );
  serveAct(
    app,
    deps,
    buildRoutes.buildAgainRoute,
    ({ project, body, caller }, done) => buildAgain(deps, project, body, caller, done),
    ({ project }, build) => rowOf(deps, project, build),
  );
  serveAct(
    app,
    deps,
    buildRoutes.cancelBuildRoute,
    ({ project, params, caller }, done) => cancelBuild(deps, project, params.build, caller, done),
    ({ project }, build) => rowOf(deps, project, build),
  );
  serve(app, deps, buildRoutes.logLinesRoute, async ({ project, params, query }) => {
    const build = await requireBuild(deps, project, params.build);
    const attempt = await latestAttempt(deps.db, build.id);
    return attempt === undefined
      ? { lines: [], more: false, earlier: false, found: 0, total: 0 }
      : findLines(deps.db, attempt.id, query);
  });
  serve(app, deps, buildRoutes.buildLogRoute, async ({ project, caller, params, req, res }) => {
    const build = await requireBuild(deps, project, params.build);
    const attempt = await latestAttempt(deps.db, build.id);
    const from = Number(req.headers['last-event-id'] ?? 0) || 0;
    if (req.headers.accept?.includes('text/event-stream') === true) {
      whileSignedIn(deps, caller, res);
      await streamLog(deps, res, attempt ?? null, from);
      return undefined;
    }
    res.type('text/plain; charset=utf-8');
    if (attempt === undefined) res.send('');
    // A reader that went away, or a piece that cannot be read, cuts the connection.
    else
      await pipeline(Readable.from(bytesOf(deps.db, attempt.id)), res).catch((err: unknown) =>
        deps.log.warn({ err, build: build.number }, 'a log was not sent whole'),
      );
    return undefined;
  });
}

async function* bytesOf(db: Db, attemptId: string): AsyncGenerator<Buffer> {
  for await (const { bytes } of readPieces(db, attemptId, 0)) yield bytes;
}

async function requireBuild(deps: Deps, project: ProjectRow, number: number): Promise<BuildRecord> {
  return (
    (await buildByNumber(deps.db, project.id, number)) ??
    refused({ code: 'not-found', what: 'build', name: String(number) })
  );
}

async function rowOf(deps: Deps, project: ProjectRow, number: number) {
  const build = await requireBuild(deps, project, number);
  const authors = await authorsOf(deps.db, [build.authorMail]);
  return viewRow({
    ...build,
    authorIs: authors(build.authorMail),
    files: null,
    bytes: null,
    marks: [],
  });
}
