import { pullRequestOf } from '@vaquero/core';
import { and, desc, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Db } from '../database/pool.ts';
import { changes, people, pullRequests } from '../database/tables.ts';
import { personById } from '../people/people-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/** Whose a ref is. */
export interface Owner {
  readonly name: string;
  readonly shownAs: string;
}

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
    Promise.all(branches.map((ref) => pusherOf(db, repositoryId, ref))),
  ]);
  const byNumber = new Map(openers.map(({ number, ...owner }) => [number, owner]));
  const byRef = new Map(branches.map((ref, place) => [ref, pushers[place]]));
  return new Map(
    refs.flatMap((ref) => {
      const number = pullRequestOf(ref);
      const owner = number === undefined ? byRef.get(ref) : byNumber.get(number);
      return owner === undefined ? [] : [[ref, owner]];
    }),
  );
}

/** Who pushed a branch last, as far as somebody is known who did; two questions, each read by an index. */
async function pusherOf(db: Db, repositoryId: string, ref: string): Promise<Owner | undefined> {
  const [last] = await lastPush(db).execute({ repositoryId, ref });
  const person = last?.actorId == null ? undefined : await personById(db, last.actorId);
  return person === undefined ? undefined : { name: person.name, shownAs: person.shownAs };
}

const lastPush = madeOnce((db) =>
  db
    .select({ actorId: changes.actorId })
    .from(changes)
    .where(
      and(
        eq(changes.repositoryId, sql.placeholder('repositoryId')),
        eq(changes.ref, sql.placeholder('ref')),
        isNotNull(changes.actorId),
      ),
    )
    .orderBy(desc(changes.look))
    .limit(1)
    .prepare(),
);
