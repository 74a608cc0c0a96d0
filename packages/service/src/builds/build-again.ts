import type { buildRoutes } from '@vaquero/contracts';
import {
  type CommitId,
  type Proposed,
  type RefName,
  readCommitId,
  readRefName,
  refOfBranch,
} from '@vaquero/core';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { isDraft } from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import { namedEnvironments } from '../map/named-environments.ts';
import type { Caller } from '../people/caller.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { forgive } from '../repositories/being-read.ts';
import { buildByNumber, proposedOf } from './build-rows.ts';
import { mayPublish, type PreparedBuild, prepareBuilds } from './prepare-builds.ts';
import { queueBuild } from './queue-build.ts';

/** What is built again: a ref at a commit, and of an earlier build its recipe and the rules that wanted it. */
interface Again {
  readonly ref: RefName;
  readonly commit: CommitId;
  readonly earlier: { readonly recipe: string; readonly rules: readonly string[] } | null;
  readonly proposed: Proposed | null;
}

/**
 * Builds the trunk's newest commit, or the commit of an earlier build, again. Where environments give the trunk different
 * values it has a build for each set of them; what comes back is the first's number.
 * Refuses: no-commit-yet, not-found.
 */
export async function buildAgain(
  deps: Deps,
  project: ProjectRow,
  wish: z.output<typeof buildRoutes.buildAgainRoute.body>,
  caller: Caller,
  note: NoteDone,
): Promise<Done<number>> {
  const again =
    wish.build === undefined
      ? await headOf(deps, project)
      : await commitOf(deps, project, wish.build);
  const { ref, commit, proposed } = again;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  // Somebody asks for it: a commit that ended the service while it was read gets another try.
  await forgive(directory, commit);
  const [first, ...others] = wanted(
    await prepareBuilds(deps, directory, project, commit, ref, true, proposed),
    again,
  );
  if (first === undefined)
    return refused({
      code: 'not-found',
      what: 'recipe',
      name: again.earlier?.recipe ?? 'that publishes',
    });
  const head = (await refsKnown(deps.db, project.repositoryId)).get(ref);
  // Only the newest commit of a ref may go live by itself: an older one would take the environment back.
  const isNewest = head === commit;
  const queueOne = async (
    tx: Parameters<typeof queueBuild>[1],
    build: PreparedBuild,
  ): Promise<number> => {
    const isTaken = isNewest && mayPublish(build) && !(await isDraft(tx, project, ref));
    const { number } = await queueBuild(deps, tx, {
      project,
      // Somebody who asks for a build wants it to run: an artifact that is known already is no answer to that.
      build: { ...build, known: null },
      ref,
      changeId: null,
      begunBy: caller.personId,
      cause: `asked for by ${caller.shownAs}${asked[wish.earlier]}${wish.meant ? ', meant to be smaller' : ''}`,
      environments: isTaken
        ? await namedEnvironments(deps, tx, { project, ...build, ref, doing: caller.doing })
        : [],
      earlier: wish.earlier,
      meant: wish.meant,
    });
    decide(tx, {
      at: deps.clock(),
      kind: 'build.asked-for',
      project,
      doing: caller.doing,
      facts: { build: number, commit, earlier: wish.earlier, meant: wish.meant },
    });
    return number;
  };
  return inTransaction(deps.db, async (tx) => {
    const number = await queueOne(tx, first);
    for (const build of others) await queueOne(tx, build);
    return note(tx, number);
  });
}

const asked = { used: '', left: ', afresh', compared: ', afresh and compared' } as const;

/** Of what the commit can be built by: of an earlier build the same once more, else the recipe that publishes, for each set of values. */
function wanted(all: readonly PreparedBuild[], { earlier }: Again): readonly PreparedBuild[] {
  const unreadable = all.filter((one) => one.failure?.reason === 'commit-unreadable');
  if (unreadable.length > 0) return unreadable.slice(0, 1);
  if (earlier === null) {
    const published = all.find(mayPublish)?.name;
    return all.filter(({ name }) => name === published);
  }
  const sameRecipe = all.filter(({ name }) => name === earlier.recipe);
  const isForTheSame = ({ destination: { rules } }: PreparedBuild): boolean =>
    rules.some(({ name }) => earlier.rules.includes(name));
  return [sameRecipe.find(isForTheSame) ?? sameRecipe[0]].flatMap((one) => one ?? []);
}

async function headOf(deps: Deps, project: ProjectRow): Promise<Again> {
  const ref = refOfBranch(project.branch);
  const commit =
    ref === undefined ? undefined : (await refsKnown(deps.db, project.repositoryId)).get(ref);
  return ref === undefined || commit === undefined
    ? refused({ code: 'no-commit-yet', branch: project.branch })
    : { ref, commit, earlier: null, proposed: null };
}

async function commitOf(deps: Deps, project: ProjectRow, number: number): Promise<Again> {
  const build = await buildByNumber(deps.db, project.id, number);
  const ref = readRefName(build?.ref ?? '');
  const commit = readCommitId(build?.commitId ?? '');
  return build === undefined || ref === undefined || commit === undefined
    ? refused({ code: 'not-found', what: 'build', name: String(number) })
    : {
        ref,
        commit,
        earlier: { recipe: build.recipeName, rules: build.aim?.rules ?? [] },
        proposed: proposedOf(build),
      };
}
