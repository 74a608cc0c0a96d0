import { counted, type Instant } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { openBuildsOf } from '../builds/build-rows.ts';
import { closeLogs, endOpenBuild } from '../builds/end-open-build.ts';
import type { Db, Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { endEnvironment } from '../environments/family-rows.ts';
import { type Caller, requireWhole } from '../people/caller.ts';
import { lockGrants } from '../people/grant-rows.ts';
import { membersOfKind } from '../people/people-rows.ts';
import { endServiceWith } from '../people/services.ts';
import {
  livingProjectsOf,
  lockProject,
  type ProjectRow,
  projectById,
  repositoryById,
  setEnded,
} from '../projects/project-rows.ts';
import { credentialSeen, dropCredential } from '../repositories/credential-rows.ts';
import { publishTable } from '../routing/publish-table.ts';
import { dropVariable, variablesOf } from '../variables/variable-rows.ts';

/** Says what the end of a project takes, and what stays. Refuses: repository-shared. */
export async function tryEnd(deps: Deps, project: ProjectRow): Promise<readonly string[]> {
  await requireUnshared(deps.db, project);
  const [environments, open, variables, services] = await Promise.all([
    environmentsOf(deps.db, project.id),
    openBuildsOf(deps.db, project.id),
    variablesOf(deps.db, project.id),
    membersOfKind(deps.db, 'service', project.id),
  ]);
  const names = environments.map(({ name }) => name).join(', ');
  const repository = await repositoryById(deps.db, project.repositoryId);
  const credential =
    repository.homeId === project.id ? await credentialSeen(deps.db, repository.id) : null;
  const held = [
    ...(variables.length > 0 ? [counted(variables.length, 'value')] : []),
    ...(services.length > 0 ? [`${counted(services.length, 'service')} with all tokens`] : []),
    ...(credential === null ? [] : ['the token that its repository is read with']),
  ];
  return [
    names === ''
      ? 'No environment lives.'
      : `These environments end at once, and their addresses say so for 30 days: ${names}.`,
    ...(open.length > 0
      ? [
          `${counted(open.length, 'build')} that ${open.length === 1 ? 'waits or runs is' : 'wait or run are'} stopped.`,
        ]
      : []),
    ...(held.length > 0 ? [`For good go: ${held.join(', ')}.`] : []),
    'Nothing is pushed to its repository, built, promoted or changed any more; what is there is fetched as before.',
    'Builds, artifacts, history and every entry of the log stay, for those who may read the project.',
    `Its name, ${project.name}, is given to no other project.`,
  ];
}

/** Ends a project for good. Refuses: token-too-narrow, name-not-typed, repository-shared. */
export async function endProject(
  deps: Deps,
  project: ProjectRow,
  wish: { readonly typed: string; readonly reason: string },
  caller: Caller,
): Promise<Instant> {
  requireWhole(caller, 'end a project');
  if (wish.typed !== project.name) return refused({ code: 'name-not-typed', name: project.name });
  const at = deps.clock();
  const running: string[] = [];
  await inTransaction(deps.db, async (tx) => {
    running.length = 0;
    await lockGrants(tx);
    await lockProject(tx, project.id);
    const locked = await projectById(tx, project.id);
    // Nobody has begun to share its repository meanwhile: that takes the same lock.
    await requireUnshared(tx, project);
    const builds = await openBuildsOf(tx, project.id);
    for (const { id } of builds) running.push(...(await endOpenBuild(tx, id, at)));
    const environments = await environmentsOf(tx, project.id);
    for (const row of environments)
      await endEnvironment(deps, tx, locked, row, 'project', caller.doing);
    await dropWhatIsHeld(deps, tx, locked, caller);
    await setEnded(tx, project.id, at);
    decide(tx, {
      at,
      kind: 'project.ended',
      project: locked,
      doing: caller.doing,
      why: wish.reason,
      facts: {
        environments: environments.map(({ name }) => name),
        builds: builds.map(({ number }) => number),
      },
    });
  });
  await closeLogs(deps, running);
  await deps.edges.confirmed(await publishTable(deps), 1_000);
  return at;
}

/** What opens something elsewhere goes for good: values, tokens of services, the token of a private repository. */
async function dropWhatIsHeld(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  caller: Caller,
): Promise<void> {
  for (const { environment, name } of await variablesOf(tx, project.id))
    await dropVariable(tx, project.id, environment, name);
  for (const service of await membersOfKind(tx, 'service', project.id))
    await endServiceWith(deps, tx, { project, service, caller });
  const repository = await repositoryById(tx, project.repositoryId);
  if (repository.homeId === project.id) await dropCredential(tx, repository.id);
}

/** Refuses (repository-shared) while others are built from the repository that is this project's. */
async function requireUnshared(db: Db | Tx, project: ProjectRow): Promise<void> {
  const repository = await repositoryById(db, project.repositoryId);
  if (repository.homeId !== project.id) return;
  const others = (await livingProjectsOf(db, repository.id))
    .filter(({ id }) => id !== project.id)
    .map(({ name }) => name);
  if (others.length > 0) refused({ code: 'repository-shared', name: project.name, others });
}
