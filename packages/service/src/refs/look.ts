import { faultText } from '@vaquero/contracts';
import { branchOf, type MovedRef, nameOfRef, pullRequestOf, type RefName } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Refused } from '../base/refused.ts';
import { closeLogs } from '../builds/end-open-build.ts';
import { overtakeOlder } from '../builds/overtake-older.ts';
import { mayPublish } from '../builds/prepare-builds.ts';
import { queueOnce, type Twins } from '../builds/queue-once.ts';
import { insertChange } from '../changes/change-rows.ts';
import { type PullRequestRow, setPullRequest } from '../changes/pull-request-rows.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { closeAt } from '../environments/family-rows.ts';
import { destinationFor } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import { namedEnvironments } from '../map/named-environments.ts';
import { settleAll } from '../moves/settle-intakes.ts';
import {
  livingProjectsOf,
  lockedProject,
  lockRepository,
  noteLook,
  noteTrouble,
  type ProjectRow,
  repositoryById,
  setRef,
} from '../projects/project-rows.ts';
import { directoryOf, pin } from '../repositories/bare-repository.ts';
import { credentialOf } from '../repositories/credential-rows.ts';
import { mirror } from '../repositories/repository-elsewhere.ts';
import type { Ring } from '../repositories/rings.ts';
import { keyOf, type Prepared, prepareAll, proposedBy, pullAt } from './prepare-moved.ts';
import type { Ended } from './pull-request-heads.ts';
import { whatMoved } from './what-moved.ts';

const mostTries = 5;

/**
 * One look: the look number is read first, then Git, and what moved is written only if the number is
 * unchanged; otherwise somebody looked meanwhile, and it looks again. Nothing but Git itself is believed.
 */
export async function lookAtRepository(
  deps: Deps,
  repositoryId: string,
  ring: Ring,
): Promise<void> {
  for (let tried = 0; tried < mostTries; tried += 1) {
    if (await lookOnce(deps, repositoryId, ring)) return;
  }
  deps.log.warn({ repositoryId }, 'look overtaken each time');
}

async function lookOnce(deps: Deps, repositoryId: string, ring: Ring): Promise<boolean> {
  const repository = await repositoryById(deps.db, repositoryId);
  const directory = directoryOf(deps.config.stateDirectory, repositoryId);
  if (repository.kind !== 'hosted') {
    try {
      const credential = await credentialOf(deps, repositoryId);
      await mirror(deps.config, directory, repository.place, credential);
    } catch (error) {
      await noteTrouble(deps.db, repositoryId, troubleOf(error));
      throw error;
    }
  }
  const [{ moved, open, ends }, projects] = await Promise.all([
    whatMoved(deps, directory, repositoryId, ring),
    livingProjectsOf(deps.db, repositoryId),
  ]);
  if (moved.length === 0 && ends.length === 0) {
    // A look that saw nothing new takes no number: polls would otherwise write once a second.
    if (repository.trouble !== null || repository.lookedAt === null)
      await inTransaction(deps.db, (tx) =>
        noteLook(tx, repositoryId, repository.look, deps.clock()),
      );
    return true;
  }
  const [prepared] = await Promise.all([
    prepareAll(deps, directory, projects, moved, open),
    pin(
      directory,
      moved.flatMap((move) => (move.to === null ? [] : [move.to])),
    ),
  ]);
  const ended: string[] = [];
  const done = await inTransaction(deps.db, async (tx) => {
    ended.length = 0;
    const locked = await lockRepository(tx, repositoryId);
    if (locked.look !== repository.look) return false;
    await noteLook(tx, repositoryId, locked.look + 1, deps.clock());
    if (!(await stillOfTheirMaps(tx, projects))) return false;
    const look = locked.look + 1;
    const twins: Twins = new Map();
    // Branches before the heads of pull requests: what both would build of the same inputs is the branch's build.
    for (const move of [...moved].sort(byKind)) {
      const noted = { move, repositoryId, look, ring, projects, prepared, open, twins };
      ended.push(...(await noteMove(deps, tx, noted)));
    }
    for (const end of ends) await noteEnd(deps, tx, end, projects);
    return true;
  });
  if (done) {
    await closeLogs(deps, ended);
    // What was known already waits for nobody; a deploy that fails here is tried again by the loop.
    if ([...prepared.values()].flat().some((build) => build.known !== null))
      await settleAll(deps).catch((err: unknown) =>
        deps.log.warn({ err }, 'deploys of a reused build wait'),
      );
  }
  return done;
}

function byKind(one: MovedRef, other: MovedRef): number {
  return (
    Number(pullRequestOf(one.ref) !== undefined) - Number(pullRequestOf(other.ref) !== undefined)
  );
}

/** Locks the projects in the order of their ids; false where somebody has set a map, or ended one, since the builds were prepared. */
async function stillOfTheirMaps(tx: Tx, projects: readonly ProjectRow[]): Promise<boolean> {
  for (const { id, mapVersion } of projects) {
    const now = await lockedProject(tx, id);
    if (now.mapVersion !== mapVersion || now.endedAt !== null) return false;
  }
  return true;
}

/** What keeps a repository from being read, in words for whoever looks at the project. */
function troubleOf(error: unknown): string {
  if (error instanceof Refused) return faultText(error.refusal);
  return error instanceof Error ? error.message : String(error);
}

/** Writes the end of a pull request into the order of each project that it belonged to. */
async function noteEnd(
  deps: Deps,
  tx: Tx,
  { pull, as }: Ended,
  projects: readonly ProjectRow[],
): Promise<void> {
  const at = deps.clock();
  // Somebody may have closed it since it was read.
  if (!(await setPullRequest(tx, pull.id, { state: as, endedAt: at }))) return;
  for (const project of projects)
    decide(tx, {
      at,
      kind: `pull-request.${as}`,
      project,
      doing: byVaquero,
      facts: { pullRequest: pull.number, into: pull.into, head: pull.head },
    });
}

interface NoteMove {
  readonly move: MovedRef;
  readonly repositoryId: string;
  readonly look: number;
  readonly ring: Ring;
  readonly projects: readonly ProjectRow[];
  readonly prepared: Prepared;
  readonly open: readonly PullRequestRow[];
  readonly twins: Twins;
}

async function noteMove(
  deps: Deps,
  tx: Tx,
  { move, repositoryId, look, ring, projects, prepared, open, twins }: NoteMove,
): Promise<readonly string[]> {
  const ended: string[] = [];
  const changeId = deps.newId();
  const at = deps.clock();
  const doing: Doing = ring.doing ?? byVaquero;
  const actorId = doing.actor.kind === 'person' ? doing.actor.id : null;
  await setRef(tx, repositoryId, move.ref, move.to);
  const pull = pullAt(open, move.ref);
  if (pull !== undefined && move.to !== null) await setPullRequest(tx, pull.id, { head: move.to });
  await insertChange(tx, {
    id: changeId,
    repositoryId,
    look,
    ref: move.ref,
    fromCommit: move.from,
    toCommit: move.to,
    doorbell: ring.kind,
    actorId,
    at,
  });
  for (const project of projects) {
    const builds = move.to === null ? [] : (prepared.get(keyOf(project, move.ref, move.to)) ?? []);
    const map = await mapOf(tx, project);
    const destination = destinationFor(map, move.ref, proposedBy(pull));
    const environments =
      builds.some(mayPublish) && pull?.isDraft !== true
        ? await namedEnvironments(deps, tx, { project, map, destination, ref: move.ref, doing })
        : [];
    if (move.to === null) await closeAt(tx, project, move.ref, at);
    const queued: number[] = [];
    for (const build of builds) {
      const number = await queueOnce(deps, tx, twins, {
        project,
        build,
        ref: move.ref,
        changeId,
        begunBy: actorId,
        cause: causeOf(ring, move.ref),
        environments,
      });
      queued.push(number);
      const overtaking = { project, ref: move.ref, recipe: build.name, build: number, by: build };
      ended.push(...(await overtakeOlder(deps, tx, overtaking)));
    }
    decide(tx, {
      at,
      kind: 'change.seen',
      project,
      doing,
      facts: {
        change: changeId,
        look,
        ref: move.ref,
        from: move.from,
        to: move.to,
        builds: queued,
        destination: destination.why,
      },
    });
  }
  return ended;
}

function causeOf(ring: Ring, ref: RefName): string {
  if (pullRequestOf(ref) !== undefined) return `new commit in ${nameOfRef(ref)}`;
  const where = branchOf(ref) ?? ref;
  return ring.kind === 'push' ? `push to ${where}` : `new commit on ${where}`;
}
