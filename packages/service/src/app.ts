import { join } from 'node:path';
import { auditRoutes, problemOf, version } from '@vaquero/contracts';
import type { Refusal } from '@vaquero/core';
import express, {
  type ErrorRequestHandler,
  type Express,
  type Request,
  type RequestHandler,
} from 'express';
import type { Deps } from './base/deps.ts';
import { Refused } from './base/refused.ts';
import { answers } from './database/migrate.ts';
import { isAway } from './database/transaction.ts';
import { openApi } from './http/open-api.ts';
import { requestIdOf } from './http/request-id.ts';
import { serve } from './http/serve-route.ts';
import { projectFormerly } from './projects/former-name-rows.ts';
import { projectByName } from './projects/project-rows.ts';
import { BodyTooLarge } from './repositories/git-body.ts';
import type { Doorbell } from './repositories/rings.ts';
import { CommitUnreadable } from './repositories/tree-size.ts';
import { serveAdmission } from './routes/admission-routes.ts';
import { serveAttempts } from './routes/attempt-routes.ts';
import { serveAudit } from './routes/audit-routes.ts';
import { serveBlobs } from './routes/blob-routes.ts';
import { serveBuilds } from './routes/build-routes.ts';
import { serveEdgeList } from './routes/edge-list-routes.ts';
import { serveEdges } from './routes/edge-routes.ts';
import { serveElsewhere } from './routes/elsewhere-routes.ts';
import { serveEnvironments } from './routes/environment-routes.ts';
import { serveEvidence } from './routes/evidence-routes.ts';
import { serveFavourites } from './routes/favourite-routes.ts';
import { serveGit } from './routes/git-routes.ts';
import { serveGroups } from './routes/group-routes.ts';
import { serveProjectLife } from './routes/life-routes.ts';
import { serveMail } from './routes/mail-routes.ts';
import { serveMaps } from './routes/map-routes.ts';
import { serveInvitations, serveMembers } from './routes/member-routes.ts';
import { serveOwn } from './routes/own-routes.ts';
import { servePasswordLinks } from './routes/password-link-routes.ts';
import { servePeople } from './routes/people-routes.ts';
import { servePictures } from './routes/picture-routes.ts';
import { servePreviews } from './routes/preview-routes.ts';
import { serveProjects } from './routes/project-routes.ts';
import { servePullRequestChanges, servePullRequests } from './routes/pull-request-routes.ts';
import { serveRunners } from './routes/runner-routes.ts';
import { serveSecondFactors } from './routes/second-factor-routes.ts';
import { serveServices } from './routes/service-routes.ts';
import { serveSharedOutputs } from './routes/shared-output-routes.ts';
import { serveStore } from './routes/store-routes.ts';
import { serveVariables } from './routes/variable-routes.ts';
import { serveVisits } from './routes/visit-routes.ts';

/** Makes the api's Express app. */
export function makeApp(deps: Deps, doorbell: Doorbell): Express {
  const app = express();
  app.disable('x-powered-by');
  app.disable('etag');
  // Whose word counts for where a call came from; nobody's but that of those who are named.
  app.set('trust proxy', [...deps.config.trustedProxies]);
  app.use(secureHeaders);
  app.use(refuseOtherHosts(deps));
  serve(app, deps, auditRoutes.healthRoute, async () => {
    const database = await answers(deps.db);
    return { role: 'api', ok: database, database, version };
  });
  let described: object | null = null;
  serve(app, deps, auditRoutes.openApiRoute, () => {
    described ??= openApi();
    return Promise.resolve(described as { openapi: string });
  });
  servePeople(app, deps);
  serveOwn(app, deps);
  serveMembers(app, deps);
  serveGroups(app, deps);
  serveServices(app, deps);
  serveMail(app, deps);
  servePasswordLinks(app, deps);
  serveSecondFactors(app, deps);
  serveElsewhere(app, deps);
  serveInvitations(app, deps);
  serveAudit(app, deps);
  serveProjects(app, deps, doorbell);
  serveProjectLife(app, deps);
  serveFavourites(app, deps);
  servePullRequests(app, deps, doorbell);
  servePullRequestChanges(app, deps, doorbell);
  serveBuilds(app, deps);
  serveRunners(app, deps);
  serveVariables(app, deps);
  serveEvidence(app, deps);
  servePictures(app, deps);
  serveEnvironments(app, deps);
  servePreviews(app, deps);
  serveAdmission(app, deps);
  serveMaps(app, deps);
  serveVisits(app, deps);
  serveAttempts(app, deps);
  serveEdges(app, deps);
  serveEdgeList(app, deps);
  serveBlobs(app, deps);
  serveSharedOutputs(app, deps);
  serveStore(app, deps);
  serveGit(app, deps, doorbell);
  serveConsole(app, deps);
  app.use((req, _res, next) =>
    next(new Refused({ code: 'not-found', what: 'route', name: req.path.slice(0, 200) })),
  );
  app.use(answerErrors(deps));
  return app;
}

const secureHeaders: RequestHandler = (req, res, next) => {
  res.setHeader('x-request-id', requestIdOf(req));
  res.setHeader('x-content-type-options', 'nosniff');
  res.setHeader('referrer-policy', 'no-referrer');
  res.setHeader('x-frame-options', 'DENY');
  res.setHeader(
    'content-security-policy',
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
  );
  if (req.path.startsWith('/api/')) res.setHeader('cache-control', 'no-store');
  next();
};

/**
 * A page that points a name of its own at this machine must not be able to speak to the service as that
 * name. Machines come by whatever name reaches the service from where they are, and bear tokens, which no
 * page has.
 */
function refuseOtherHosts(deps: Deps): RequestHandler {
  const { port } = deps.config;
  const own = new Set([
    new URL(deps.config.origin).host,
    `localhost:${port}`,
    `127.0.0.1:${port}`,
    `[::1]:${port}`,
  ]);
  return (req, _res, next) =>
    next(
      own.has(req.headers.host ?? '') || req.path.startsWith('/role/')
        ? undefined
        : new Refused({ code: 'forged-request', because: 'host' }),
    );
}

function serveConsole(app: Express, deps: Deps): void {
  const directory = deps.config.consoleDirectory;
  if (directory === null) return;
  app.use(
    '/assets',
    express.static(join(directory, 'assets'), { immutable: true, maxAge: '1y', fallthrough: true }),
  );
  app.use(express.static(directory, { index: false, maxAge: 0 }));
  app.get(
    [
      '/',
      '/sign-in',
      '/sign-in/back',
      '/admit',
      '/join',
      '/me',
      '/new',
      '/people',
      '/machines',
      '/password',
      '/mail',
      '/p/{*rest}',
    ],
    (req, res, next) => {
      res.setHeader('cache-control', 'no-cache');
      pageElsewhere(deps, req).then((location) => {
        if (location === null) res.sendFile(join(directory, 'index.html'));
        else res.redirect(308, location);
      }, next);
    },
  );
}

/** Where a page of a project is that was called otherwise lately; null where it is here. */
async function pageElsewhere(deps: Deps, req: Request): Promise<string | null> {
  const [, name = '', rest = ''] =
    /^\/p\/([a-z0-9-]{1,40})(\/.*|\?.*)?$/.exec(req.originalUrl) ?? [];
  if (name === '') return null;
  try {
    if ((await projectByName(deps.db, name)) !== undefined) return null;
    const now = await projectFormerly(deps.db, name, deps.clock());
    return now === undefined ? null : `/p/${now.name}${rest}`;
  } catch (err) {
    // The page itself says what is away.
    deps.log.warn({ err }, 'a page is given without its project having been looked for');
    return null;
  }
}

let awaySince: number | null = null;

/** The one place that turns whatever was thrown into problem details (RFC 9457). */
function answerErrors(deps: Deps): ErrorRequestHandler {
  return (error: unknown, req, res, _next) => {
    const requestId = requestIdOf(req);
    const refusal = refusalOf(deps, error, requestId);
    if (refusal.code === 'internal')
      deps.log.error({ err: error, requestId, path: req.path }, 'request failed');
    if (res.headersSent) {
      res.destroy();
      return;
    }
    const problem = problemOf(refusal, requestId);
    if (refusal.code === 'project-renamed') res.setHeader('location', refusal.location);
    res.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}

function refusalOf(deps: Deps, error: unknown, requestId: string): Refusal {
  if (error instanceof Refused) return error.refusal;
  if (isAway(error)) {
    awaySince ??= deps.clock();
    return { code: 'database-away', since: awaySince };
  }
  const status = error instanceof Error && 'status' in error ? error.status : undefined;
  if (status === 413) return { code: 'too-large', what: 'The request', limitBytes: limitOf(error) };
  if (error instanceof BodyTooLarge)
    return { code: 'too-large', what: 'What Git sent', limitBytes: error.most };
  if (error instanceof CommitUnreadable) return { code: 'commit-unreadable', why: error.message };
  const isBroken = error instanceof Error && 'code' in error && /^Z_/.test(String(error.code));
  const message = bodyFaults[isBroken ? 400 : String(status)];
  if (message !== undefined)
    return {
      code: 'invalid-request',
      faults: [{ path: 'body', message, line: null, column: null }],
    };
  return { code: 'internal', requestId };
}

/** What express.json says of a body, by its status. */
const bodyFaults: Readonly<Record<string, string>> = {
  400: 'is not JSON, or not compressed as it says',
  415: 'is compressed, or in an encoding that is not UTF-8; send it as it is',
};

function limitOf(error: unknown): number {
  return error instanceof Error && 'limit' in error && typeof error.limit === 'number'
    ? error.limit
    : 0;
}

/** Forgets since when the database was away; called when it answers again. */
export function databaseAnswers(): void {
  awaySince = null;
}
