import type { CommitId } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { openOutsiders } from '../changes/pull-request-rows.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { closeGone, followOutsider } from './outsider-branch.ts';

const mostAtOnce = 4;
const mostPauseMs = 60_000;

/** Follows branches elsewhere that pull requests come from: nobody rings when those are pushed to. */
export interface Follower {
  /** Asks for those that are due, and waits for none of them. */
  readonly turn: () => Promise<void>;
  readonly stop: () => Promise<void>;
}

/**
 * Makes what follows them. It stands beside the looks and not in them: a host that answers slowly, or never, holds up
 * nobody's push. One that does not answer is asked less and less often, once a minute in the end.
 */
export function makeFollower(deps: Deps, doorbell: Doorbell): Follower {
  const stopping = new AbortController();
  const underWay = new Map<string, Promise<void>>();
  const failures = new Map<string, Failure>();

  async function follow({ repositoryId, pull }: Outsider): Promise<void> {
    const before = failures.get(pull.id);
    const { signal } = stopping;
    const came = await followOutsider(deps, repositoryId, pull, signal, before?.tooLarge);
    const tooLarge = typeof came === 'object' ? came.tooLarge : undefined;
    const count = came === 'unread' || tooLarge !== undefined ? (before?.count ?? 0) + 1 : 0;
    const pauseMs = Math.min(mostPauseMs, 1000 * 2 ** Math.min(count, 6));
    if (count === 0) failures.delete(pull.id);
    else failures.set(pull.id, { count, until: performance.now() + pauseMs, tooLarge });
    if (came === 'gone') await closeGone(deps, repositoryId, pull);
    if (came === 'moved' || came === 'gone')
      doorbell.ring(repositoryId, { kind: 'poll', doing: null });
  }

  return {
    turn: async () => {
      const all = await openOutsiders(deps.db);
      const due = all.filter(
        ({ pull }) =>
          !underWay.has(pull.id) && (failures.get(pull.id)?.until ?? 0) <= performance.now(),
      );
      for (const one of due.slice(0, Math.max(0, mostAtOnce - underWay.size))) {
        const following = follow(one)
          .catch((err: unknown) => {
            if (!stopping.signal.aborted)
              deps.log.warn({ err, pullRequest: one.pull.number }, 'a branch was not followed');
          })
          .finally(() => underWay.delete(one.pull.id));
        underWay.set(one.pull.id, following);
      }
    },
    stop: async () => {
      stopping.abort();
      await Promise.all(underWay.values());
    },
  };
}

/** How often in a row a branch could not be read, when it is due again, and the commit that brings too much, if that is why. */
interface Failure {
  readonly count: number;
  readonly until: number;
  readonly tooLarge: CommitId | undefined;
}

type Outsider = Awaited<ReturnType<typeof openOutsiders>>[number];
