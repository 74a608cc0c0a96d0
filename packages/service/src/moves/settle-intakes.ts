import {
  allow,
  type Digest,
  decideAutomaticDeploy,
  decideEntry,
  entranceOf,
  type RefusalCode,
  refuse,
  ruleNamed,
  sourceOf,
} from '@vaquero/core';
import { byPerson, byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Refused } from '../base/refused.ts';
import type { Db, Tx } from '../database/pool.ts';
import { inTransaction, onCommit } from '../database/transaction.ts';
import {
  type EnvironmentRow,
  environmentByName,
  environmentNow,
} from '../environments/environment-rows.ts';
import { servedBefore } from '../environments/ledger-rows.ts';
import { settleIntake } from '../intakes/intake-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { goLive } from './go-live.ts';
import { type Ready, readyWhere } from './ready-rows.ts';

/** Brings in what waited for a build that has passed, and what waited for that to be served. */
export async function settleIntakesOf(deps: Deps, buildId: string): Promise<void> {
  if (await settle(deps, await readyWhere(deps, { buildId }))) await settleAll(deps);
}

/** Brings in every intake whose build has passed: what a process that died left undone, and what waited for another environment. */
export async function settleAll(deps: Deps): Promise<void> {
  // What one environment serves may be what another waits for; a map has no circles of them.
  while (await settle(deps, await readyWhere(deps, {})));
}

/** Says what becomes of each, and whether any of it went live. */
async function settle(deps: Deps, ready: readonly Ready[]): Promise<boolean> {
  let hasMoved = false;
  for (const one of ready) {
    const outcome = await enter(deps, one);
    if (outcome === 'deployed') hasMoved = true;
    else if (outcome !== 'awaited') await passOver(deps, one, outcome);
  }
  return hasMoved;
}

/** Brings in one build, if the map lets it in by itself; says what became of it. */
async function enter(deps: Deps, ready: Ready): Promise<Because | 'deployed' | 'awaited'> {
  const { environment, project, intake, build } = ready;
  const rule = ruleNamed(await mapOf(deps.db, project), environment.rule);
  const from = rule === undefined ? null : sourceOf(rule);
  const enters = rule === undefined ? 'by-itself' : entranceOf(rule);
  // Most wait for nothing but their build: what is overtaken is decided under the lock.
  if (from === null && enters === 'by-itself') return deployOne(deps, ready, null);
  const source = from === null ? null : await environmentByName(deps.db, project.id, from);
  const entry = decideEntry({
    environment: await environmentNow(deps.db, environment),
    intake: intake.intake,
    isServedFirst: source === null || (await isServedAt(deps.db, source, build.artifact)),
    enters,
  });
  return entry === 'enters' ? deployOne(deps, ready, source ?? null) : entry;
}

/** Whether an environment serves or has served an artifact that is not undone there. */
async function isServedAt(
  db: Db | Tx,
  source: EnvironmentRow | undefined,
  artifact: Digest | null,
): Promise<boolean> {
  if (source === undefined || artifact === null) return false;
  const before = await servedBefore(db, source, artifact);
  return before !== null && !before.undone;
}

type Because = 'held' | 'overtaken' | 'failed' | 'offered';

/** Puts on record why what an environment waited for does not go live. */
async function passOver(
  deps: Deps,
  { intake: { intake }, environment, project, build }: Ready,
  because: Because,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const [done] = await settleIntake(tx, environment.id, intake, because);
    // Another api process has said so already.
    if (done.affectedRows === 0) return;
    decide(tx, {
      at: deps.clock(),
      kind: 'environment.passed-over',
      project,
      doing: byVaquero,
      facts: { environment: environment.name, build: build.number, intake, because },
    });
  });
  deps.log.info(
    { project: project.name, environment: environment.name, build: build.number, because },
    'automatic deploy stopped',
  );
}

const outcomes: Partial<Record<RefusalCode, Because | 'awaited'>> = {
  'environment-held': 'held',
  overtaken: 'overtaken',
  'immutable-changed': 'failed',
  // Rolled back in the moment between.
  'undone-there': 'awaited',
  // It has ended meanwhile.
  'not-found': 'overtaken',
};

/** Brings in one build that `source`, if it is asked, has served; says what became of it. */
async function deployOne(
  deps: Deps,
  { intake: { intake }, environment, project, build, actorId }: Ready,
  source: EnvironmentRow | null,
): Promise<Because | 'deployed' | 'awaited'> {
  try {
    await goLive(deps, {
      project,
      environment,
      now: null,
      other: source,
      kind: 'automatic',
      artifact: build.artifact as Digest,
      doing: actorId === null ? byVaquero : byPerson(actorId, 'git'),
      reason: null,
      keyed: null,
      beside: (tx) => onCommit(tx, settleIntake(tx, environment.id, intake, 'deployed')),
      decide: async ({ tx, target, otherRow }) => {
        const decision = decideAutomaticDeploy(target, intake);
        if (!decision.ok) return decision;
        if (otherRow !== null && !(await isServedAt(tx, otherRow, build.artifact)))
          return refuse({
            code: 'undone-there',
            environment: otherRow.name,
            build: build.number,
          });
        return allow({
          artifact: build.artifact as Digest,
          buildId: build.id,
          build: build.number,
          commitId: build.commitId,
          intake,
          undoes: null,
        });
      },
    });
    return 'deployed';
  } catch (error) {
    const because = error instanceof Refused ? outcomes[error.refusal.code] : undefined;
    if (because === undefined) throw error;
    return because;
  }
}
