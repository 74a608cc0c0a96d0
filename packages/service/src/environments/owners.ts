import { pullRequestOf } from '@vaquero/core';
import type { Db } from '../database/pool.ts';
import { personById } from '../people/people-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { lastPusherOf } from '../refs/change-rows.ts';
import { openersOf } from '../refs/pull-request-rows.ts';

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
  const openers = await openersOf(
    db,
    repositoryId,
    refs.flatMap((ref) => pullRequestOf(ref) ?? []),
  );
  const owners = await Promise.all(
    refs.map((ref) => {
      const number = pullRequestOf(ref);
      return number === undefined ? pusherOf(db, repositoryId, ref) : openers.get(number);
    }),
  );
  return new Map(
    refs.flatMap((ref, place) => {
      const owner = owners[place];
      return owner === undefined ? [] : [[ref, owner]];
    }),
  );
}

/** Who pushed a branch last; two questions, each read by an index. */
async function pusherOf(db: Db, repositoryId: string, ref: string): Promise<Owner | undefined> {
  const id = await lastPusherOf(db, repositoryId, ref);
  const person = id === null ? undefined : await personById(db, id);
  return person === undefined ? undefined : { name: person.name, shownAs: person.shownAs };
}
