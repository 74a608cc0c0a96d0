import { buildRoutes } from '@vaquero/contracts';
import {
  type CommitId,
  type Proposed,
  type RefName,
  readCommitId,
  readRefName,
  refOfBranch,
} from '@vaquero/core';
import type { Express } from 'express';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { type Done, type NoteDone, serveAct } from '../http/keyed-calls.ts';
import { serve } from '../http/serve-route.ts';
import { namedEnvironments } from '../map/named-environments.ts';
import type { Caller } from '../people/caller.ts';
import { whileSignedIn } from '../people/while-signed-in.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { isDraft } from '../refs/pull-request-rows.ts';
import { refused } from '../refused.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { forgive } from '../repositories/being-read.ts';
import { latestAttempt } from './attempt-rows.ts';
import { type BuildRecord, buildByNumber, proposedOf } from './build-rows.ts';
import { cancelBuild } from './cancel-build.ts';
import { findBuilds } from './find-builds.ts';
import { findLines } from './find-lines.ts';
import { listBuilds } from './list-builds.ts';
import { readLog } from './log-rows.ts';
import { mayPublish, prepareBuilds, queueBuild } from './queue-build.ts';
import { streamLog } from './stream-log.ts';
import { viewBuild, viewRow } from './view-build.ts';

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
      ? { lines: [], more: false }
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
    res
      .type('text/plain; charset=utf-8')
      .send(attempt === undefined ? '' : await readLog(deps.db, attempt.id, 0));
    return undefined;
  });
}

/** Builds the trunk's newest commit, or the commit of an earlier build, again. Refuses: no-commit-yet, not-found. */
async function buildAgain(
  deps: Deps,
  project: ProjectRow,
  wish: z.output<typeof buildRoutes.buildAgainRoute.body>,
  caller: Caller,
  note: NoteDone,
): Promise<Done<number>> {
  const number = wish.build ?? null;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const { ref, commit, recipe, proposed } =
    number === null
      ? { ...(await headOf(deps, project)), recipe: null, proposed: null }
      : await commitOf(deps, project, number);
  // Somebody asks for it: a commit that ended the service while it was read gets another try.
  await forgive(directory, commit);
  const all = await prepareBuilds(deps, directory, project, commit, ref, true, proposed);
  const isOf = ({ name }: (typeof all)[number]): boolean => name === recipe;
  const found =
    all.find((one) => one.failure?.reason === 'commit-unreadable') ??
    all.find(recipe === null ? mayPublish : isOf);
  if (found === undefined)
    return refused({ code: 'not-found', what: 'recipe', name: recipe ?? 'that publishes' });
  // Somebody who asks for a build wants it to run: an artifact that is known already is no answer to that.
  const prepared = { ...found, known: null };
  const head = (await refsKnown(deps.db, project.repositoryId)).get(ref);
  // Only the newest commit of a ref may go live by itself: an older one would take the environment back.
  const isNewest = head === commit;
  return inTransaction(deps.db, async (tx) => {
    const environments =
      isNewest && mayPublish(prepared) && !(await isDraft(tx, project, ref))
        ? await namedEnvironments(deps, tx, { project, ...prepared, ref, doing: caller.doing })
        : [];
    const { number: queued } = await queueBuild(deps, tx, {
      project,
      build: prepared,
      ref,
      changeId: null,
      cause: `asked for by ${caller.shownAs}${asked[wish.earlier]}${wish.meant ? ', meant to be smaller' : ''}`,
      environments,
      earlier: wish.earlier,
      meant: wish.meant,
    });
    decide(tx, {
      at: deps.clock(),
      kind: 'build.asked-for',
      project,
      doing: caller.doing,
      facts: {
        build: queued,
        commit,
        earlier: wish.earlier,
        meant: wish.meant,
      },
    });
    return note(tx, queued);
  });
}

const asked = { used: '', left: ', afresh', compared: ', afresh and compared' } as const;

async function requireBuild(deps: Deps, project: ProjectRow, number: number): Promise<BuildRecord> {
  return (
    (await buildByNumber(deps.db, project.id, number)) ??
    refused({ code: 'not-found', what: 'build', name: String(number) })
  );
}

async function rowOf(deps: Deps, project: ProjectRow, number: number) {
  return viewRow({
    ...(await requireBuild(deps, project, number)),
    files: null,
    bytes: null,
    marks: [],
  });
}

async function headOf(
  deps: Deps,
  project: ProjectRow,
): Promise<{ ref: RefName; commit: CommitId }> {
  const ref = refOfBranch(project.branch);
  const commit =
    ref === undefined ? undefined : (await refsKnown(deps.db, project.repositoryId)).get(ref);
  return ref === undefined || commit === undefined
    ? refused({ code: 'no-commit-yet', branch: project.branch })
    : { ref, commit };
}

async function commitOf(
  deps: Deps,
  project: ProjectRow,
  number: number,
): Promise<{ ref: RefName; commit: CommitId; recipe: string; proposed: Proposed | null }> {
  const build = await buildByNumber(deps.db, project.id, number);
  const ref = readRefName(build?.ref ?? '');
  const commit = readCommitId(build?.commitId ?? '');
  return build === undefined || ref === undefined || commit === undefined
    ? refused({ code: 'not-found', what: 'build', name: String(number) })
    : { ref, commit, recipe: build.recipeName, proposed: proposedOf(build) };
}
