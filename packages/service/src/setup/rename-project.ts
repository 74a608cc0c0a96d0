import { freeNamesNear, readProjectName } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import type { Caller } from '../people/caller.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { insertFormerName } from '../projects/former-name-rows.ts';
import {
  allProjects,
  lockProject,
  type ProjectRow,
  projectById,
  repositoryById,
  setName,
} from '../projects/project-rows.ts';
import { publishTable } from '../routing/publish-table.ts';

/** Says what another name of a project would change. Refuses: name-invalid, name-taken. */
export async function tryRename(
  deps: Deps,
  project: ProjectRow,
  wanted: string,
): Promise<readonly string[]> {
  const name = await requireFreeName(deps, project, wanted);
  if (name === project.name) return [];
  const [environments, repository] = await Promise.all([
    environmentsOf(deps.db, project.id),
    repositoryById(deps.db, project.repositoryId),
  ]);
  const { origin } = deps.config;
  const isHosted = repository.kind === 'hosted' && repository.homeId === project.id;
  return [
    ...environments.map((row) => {
      const [from, to] = [project.name, name].map((of) =>
        addressOf(hostOfEnvironment(deps.config, of, row)),
      );
      return `${row.name}: ${from} is ${to}, and leads there for 30 days.`;
    }),
    ...(isHosted
      ? [`Git: ${origin}/git/${name}.git; the former address leads there for 30 days.`]
      : []),
    `Pages and calls: ${origin}/p/${name}; the former ones lead there for 30 days.`,
    'Who is signed in to a closed site signs in again at its new address.',
    ...(openedByName(deps, project)
      ? [
          `VAQUERO_OPENED_REPOSITORIES names ${project.name}: an operator has to name ${name} there instead.`,
        ]
      : []),
    `Recipes of other projects that borrow its steps name it: they find it as ${project.name} for 30 days.`,
  ];
}

/** Whether the operator has opened repositories to it, or its own to others, by its name. */
function openedByName({ config }: Deps, { name }: ProjectRow): boolean {
  return config.openedRepositories.some(
    ({ lender, borrower }) => lender === name || borrower === name,
  );
}

/** Has a project called otherwise. Its former name leads to it for a while, unless somebody takes it. Refuses: name-invalid, name-taken. */
export async function renameProject(
  deps: Deps,
  project: ProjectRow,
  wish: { readonly name: string; readonly reason: string },
  caller: Caller,
): Promise<ProjectRow> {
  const name = await requireFreeName(deps, project, wish.name);
  try {
    await inTransaction(deps.db, async (tx) => {
      await lockProject(tx, project.id);
      const locked = await projectById(tx, project.id);
      if (locked.name === name) return;
      const at = deps.clock();
      const [id, projectId] = [deps.newId(), project.id];
      await insertFormerName(tx, { id, projectId, environmentId: null, name: locked.name, at });
      await setName(tx, project.id, name);
      decide(tx, {
        at,
        kind: 'project.renamed',
        project: { id: project.id, name },
        doing: caller.doing,
        why: wish.reason,
        facts: { from: locked.name, to: name },
        before: { name: locked.name },
        after: { name },
      });
    });
  } catch (error) {
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
  await deps.edges.confirmed(await publishTable(deps), 1_000);
  return projectById(deps.db, project.id);
}

async function requireFreeName(deps: Deps, project: ProjectRow, wanted: string): Promise<string> {
  const name = orRefuse(readProjectName(wanted));
  const taken = new Set((await allProjects(deps.db)).map((one) => one.name));
  return name !== project.name && taken.has(name)
    ? refused({ code: 'name-taken', name, free: freeNamesNear(name, taken) })
    : name;
}
