import type { Deps } from '../base/deps.ts';
import { allRepositories, type RepositoryRow } from '../projects/project-rows.ts';
import type { Doorbell } from '../repositories/rings.ts';

/** A hosted repository tells of itself by a push; a look every so many turns finds what a crash hid. */
const hostedEvery = 10;
const longestMs = 60_000;

/** How often the looks at a repository failed one after another, and until when it is left alone. */
interface Failing {
  readonly failures: number;
  readonly until: number;
}

/**
 * Rings for the repositories that do not ring by themselves. One that cannot be read is asked less and less often, at
 * most a minute apart and never all at the same instant; a person who rings is not kept waiting by that.
 */
export function makeLookTurns(deps: Deps, doorbell: Doorbell): () => Promise<void> {
  const failing = new Map<string, Failing>();
  const asked = new Set<string>();
  let turn = 0;
  return async () => {
    turn += 1;
    for (const repository of await allRepositories(deps.db)) {
      const { id } = repository;
      if (repository.kind === 'hosted' && turn % hostedEvery !== 1) continue;
      if (asked.has(id) || performance.now() < (failing.get(id)?.until ?? 0)) continue;
      asked.add(id);
      ringFor(doorbell, repository)
        .then(
          () => failing.delete(id),
          (err: unknown) => {
            deps.log.warn({ err, repositoryId: id }, 'look failed');
            failing.set(id, later(failing.get(id)?.failures ?? 0));
          },
        )
        .finally(() => asked.delete(id));
    }
  };
}

function ringFor(doorbell: Doorbell, { id, lookedAt }: RepositoryRow): Promise<void> {
  return doorbell.ringAndWait(id, { kind: lookedAt === null ? 'start' : 'poll', doing: null });
}

function later(before: number): Failing {
  const failures = before + 1;
  const waitMs = Math.min(longestMs, 1000 * 2 ** Math.min(failures, 6));
  return { failures, until: performance.now() + waitMs * (0.75 + Math.random() / 2) };
}
