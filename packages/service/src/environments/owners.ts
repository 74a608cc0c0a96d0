import { pullRequestOf } from '@vaquero/core';
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { changes, people, pullRequests } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/** Whose a ref is. */
export interface Owner {
  readonly name: string;
  readonly shownAs: string;
}

/** So many changes of a branch are looked through for who pushed it. */
const mostChanges = 500;

/** Whose refs are: who opened the pull request, or pushed the branch last. Those of whom nobody is known are left out. */
export async function ownersOf(
  db: Db,
  { repositoryId }: ProjectRow,
  refs: readonly string[],
): Promise<ReadonlyMap<string, Owner>> {
  const numbers = refs.flatMap((ref) => pullRequestOf(ref) ?? []);
  const branches = refs.filter((ref) => pullRequestOf(ref) === undefined);
  const person = { name: people.name, shownAs: people.shownAs };
  const [openers, pushers] = await Promise.all([
    numbers.length === 0
      ? []
      : db
          .select({ number: pullRequests.number, ...person })
          .from(pullRequests)
          .innerJoin(people, eq(people.id, pullRequests.personId))
          .where(
            and(eq(pullRequests.repositoryId, repositoryId), inArray(pullRequests.number, numbers)),
          ),
    branches.length === 0
      ? []
      : db
          .select({ ref: changes.ref, ...person })
          .from(changes)
          .innerJoin(people, eq(people.id, changes.actorId))
          .where(
            and(
              eq(changes.repositoryId, repositoryId),
              inArray(changes.ref, branches),
              isNotNull(changes.actorId),
            ),
          )
          .orderBy(desc(changes.look))
          .limit(mostChanges),
  ]);
  const byNumber = new Map(openers.map(({ number, ...owner }) => [number, owner]));
  // The newest stands first, and stays.
  const byRef = new Map(pushers.toReversed().map(({ ref, ...owner }) => [ref, owner]));
  return new Map(
    refs.flatMap((ref) => {
      const number = pullRequestOf(ref);
      const owner = number === undefined ? byRef.get(ref) : byNumber.get(number);
      return owner === undefined ? [] : [[ref, owner]];
    }),
  );
}
