import { pullRequestOf } from '@vaquero/core';
import { lastPusherOf } from '../changes/change-rows.ts';
import { openersOf } from '../changes/pull-request-rows.ts';
import type { Db } from '../database/pool.ts';
import { peopleByIds } from '../people/people-rows.ts';
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
  const openers = await openersOf(
    db,
    repositoryId,
    refs.flatMap((ref) => pullRequestOf(ref) ?? []),
  );
  const pushers = new Map(
    await Promise.all(
      refs
        .filter((ref) => pullRequestOf(ref) === undefined)
        .map(async (ref) => [ref, await lastPusherOf(db, repositoryId, ref)] as const),
    ),
  );
  const people = await peopleByIds(
    db,
    [...pushers.values()].flatMap((id) => id ?? []),
  );
  return new Map(
    refs.flatMap((ref): readonly (readonly [string, Owner])[] => {
      const number = pullRequestOf(ref);
      const owner = number === undefined ? people.get(pushers.get(ref) ?? '') : openers.get(number);
      return owner === undefined ? [] : [[ref, owner]];
    }),
  );
}
