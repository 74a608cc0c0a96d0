import { setTimeout as pause } from 'node:timers/promises';
import type { MoveReply } from '@vaquero/contracts';
import type {
  CommitId,
  Decision,
  DeployKind,
  Digest,
  EnvironmentNow,
  Instant,
} from '@vaquero/core';
import { formatOf } from '../artifacts/artifact-rows.ts';
import { changedLasting, hasLasting } from '../artifacts/lasting-file-rows.ts';
import type { Doing } from '../audit/doing.ts';
import { decide, type Placed } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import {
  type EnvironmentRow,
  environmentNow,
  lockEnvironments,
  movePointerOnCommit,
} from '../environments/environment-rows.ts';
import { holdOnCommit } from '../environments/hold-rows.ts';
import { confirmUpTo, deployById, deployOnCommit } from '../environments/ledger-rows.ts';
import type { KeyedCall } from '../idempotency/kept-call-rows.ts';
import { type EdgeRow, edgeNames, edgesOf, freshEdges } from '../machines/edge-rows.ts';
import type { Caller } from '../people/caller.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { publishTable } from '../routing/publish-table.ts';
import { viewDeploy } from '../views/view-environments.ts';

const prepareWithinMs = 5_000;
const confirmWithinMs = 3_000;
const askAgainMs = 50;

/** What a move decided to put live, under the locks. */
export interface Decided {
  readonly artifact: Digest;
  readonly buildId: string;
  /** The build's number. */
  readonly build: number;
  readonly commitId: CommitId;
  /** The intake the deploy counts as: its own, or the environment's newest for one by hand. */
  readonly intake: number;
  readonly undoes: { readonly first: number; readonly last: number } | null;
}

/** What a decision may look at: the environments as locked. */
export interface UnderLock {
  readonly tx: Tx;
  readonly target: EnvironmentNow;
  readonly targetRow: EnvironmentRow;
  readonly other: EnvironmentNow | null;
  readonly otherRow: EnvironmentRow | null;
}

/** A person's call for a move: of what, by whom, and its idempotency key. */
export interface MoveCall {
  readonly project: ProjectRow;
  readonly environment: EnvironmentRow;
  readonly caller: Caller;
  readonly keyed: KeyedCall | null;
}

/** One move of one environment. */
export interface Move {
  readonly project: ProjectRow;
  readonly environment: EnvironmentRow;
  /** The environment as it was read before; handed on under the lock while its generation is still that one. */
  readonly now: EnvironmentNow | null;
  /** Another environment whose state the decision depends on, locked with the first. */
  readonly other: EnvironmentRow | null;
  readonly kind: DeployKind;
  /** The artifact that is expected to go live: what the edges prepare. */
  readonly artifact: Digest;
  readonly doing: Doing;
  readonly reason: string | null;
  /** The key of the call stands in the move's row for ever: the same call again moves nothing. */
  readonly keyed: KeyedCall | null;
  /** What else is written with the move. */
  readonly beside?: (tx: Tx) => void;
  readonly decide: (locked: UnderLock) => Promise<Decision<Decided>>;
}

/**
 * Going live in three acts. Prepare: every connected edge has manifest and blobs. Commit: one
 * transaction holds the decision, the ledger entry, the pointer and the log entry. Confirm: every edge
 * has the new table on disk and answered with it. The first two may refuse, nothing after them.
 * Refuses: edge-cannot-prepare, immutable-changed, and whatever `decide` refuses.
 */
export async function goLive(deps: Deps, move: Move): Promise<MoveReply> {
  const begun = performance.now();
  const [prepared, now, isLasting] = await Promise.all([
    deps.edges.prepare(move.artifact, deps.newId, prepareWithinMs),
    move.now ?? environmentNow(deps.db, move.environment),
    // A way back is open whatever it brings back: what browsers keep of it they got from there.
    move.kind !== 'rolled-back' && hasLasting(deps.db, move.artifact),
    requireReaders(deps, move),
  ]);
  const unable = prepared.find((answer) => answer.problem !== null);
  if (unable !== undefined)
    return refused({ code: 'edge-cannot-prepare', edge: unable.edge, why: unable.problem ?? '' });
  const preparedAt = performance.now();
  const committed = await inTransaction(deps.db, (tx) =>
    commit(deps, tx, { ...move, now, isLasting }),
  );
  const committedAt = performance.now();
  const [{ unheard, confirmedAt }, deploy] = await Promise.all([
    confirm(deps, committed),
    deployById(deps.db, committed.deployId),
  ]);
  const ms = {
    prepare: preparedAt - begun,
    commit: committedAt - preparedAt,
    confirm: performance.now() - committedAt,
  };
  deps.log.info(
    {
      project: move.project.name,
      environment: move.environment.name,
      deploy: deploy.number,
      kind: move.kind,
      build: deploy.build,
      ms,
    },
    'environment moved',
  );
  return {
    environment: move.environment.name,
    address: addressOf(hostOfEnvironment(deps.config, move.project.name, move.environment)),
    deploy: viewDeploy({ ...deploy, confirmedAt }, false),
    before: committed.before,
    confirmed: confirmedAt !== null,
    unheard: unheard.map((edge) => ({ edge, mayServe: committed.before?.artifact ?? null })),
    ms,
    generation: committed.generation,
  };
}

interface Committed {
  readonly deployId: string;
  readonly placed: Placed;
  /** The edges that were heard from lately. */
  readonly fresh: readonly EdgeRow[];
  readonly generation: number;
  readonly before: {
    readonly deploy: number;
    readonly build: number;
    readonly artifact: Digest;
  } | null;
}

async function commit(
  deps: Deps,
  tx: Tx,
  move: Move & { readonly isLasting: boolean },
): Promise<Committed> {
  move.beside?.(tx);
  const ids = [move.environment.id, ...(move.other === null ? [] : [move.other.id])];
  const [rows, fresh] = await Promise.all([lockEnvironments(tx, ids), freshEdges(deps.db)]);
  const targetRow = rows.get(move.environment.id) ?? move.environment;
  const otherRow = move.other === null ? null : (rows.get(move.other.id) ?? null);
  // It may have ended since the move was begun.
  if (targetRow.living !== true)
    return refused({ code: 'not-found', what: 'environment', name: targetRow.name });
  const target =
    move.now?.generation === targetRow.generation ? move.now : await environmentNow(tx, targetRow);
  const other = otherRow === null ? null : await environmentNow(tx, otherRow);
  const decided = orRefuse(await move.decide({ tx, target, targetRow, other, otherRow }));
  const environment = targetRow.name;
  const changed = move.isLasting
    ? await changedLasting(tx, targetRow.id, decided.artifact, deps.clock())
    : null;
  if (changed !== null) return refused({ code: 'immutable-changed', environment, ...changed });
  const at = deps.clock();
  const deployId = deps.newId();
  const actorId = move.doing.actor.kind === 'person' ? move.doing.actor.id : null;
  const number = movePointerOnCommit(tx, targetRow, {
    id: deployId,
    actedAt: actorId === null ? null : at,
  });
  if (move.kind === 'rolled-back' && actorId !== null) {
    holdOnCommit(tx, {
      id: deps.newId(),
      environmentId: targetRow.id,
      deployId,
      personId: actorId,
      reason: move.reason ?? '',
      since: at,
    });
  }
  const before = target.serves && {
    deploy: target.serves.deploy,
    build: target.serves.build,
    artifact: target.serves.artifact,
  };
  const placed = decideMove(tx, move, { ...decided, number, before, at });
  deployOnCommit(tx, () => ({
    id: deployId,
    environmentId: targetRow.id,
    number,
    kind: move.kind,
    buildId: decided.buildId,
    commitId: decided.commitId,
    artifact: decided.artifact,
    configuration: {},
    previousDeployId: targetRow.servesDeployId,
    undoesFirst: decided.undoes?.first ?? null,
    undoesLast: decided.undoes?.last ?? null,
    intake: decided.intake,
    moveId: deps.newId(),
    actorId,
    through: move.doing.through,
    reason: move.reason,
    committedAt: at,
    position: placed.position,
    callKey: move.keyed?.key ?? null,
    call: move.keyed?.call ?? null,
  }));
  return { deployId, placed, fresh, generation: targetRow.generation + 1, before };
}

/** Edges say which forms of manifests they read, those that other api processes speak to as well. */
async function requireReaders(deps: Deps, { project, artifact }: Move): Promise<void> {
  const [edges, format] = await Promise.all([
    freshEdges(deps.db),
    formatOf(deps.db, project.id, artifact),
  ]);
  const unable = edges.find(({ formats }) => !formats.includes(format));
  if (unable === undefined) return;
  const why = `its manifest has form ${format}, and this edge reads ${unable.formats.join(' and ')}; bring the edge up to date`;
  return refused({ code: 'edge-cannot-prepare', edge: unable.name, why });
}

function decideMove(
  tx: Tx,
  move: Move,
  {
    number,
    before,
    at,
    ...decided
  }: Decided & {
    readonly number: number;
    readonly before: Committed['before'];
    readonly at: Instant;
  },
): Placed {
  const { artifact, build } = decided;
  return decide(tx, {
    at,
    kind: `environment.${move.kind}`,
    project: move.project,
    doing: move.doing,
    why: move.reason,
    facts: {
      environment: move.environment.name,
      deploy: number,
      artifact,
      commit: decided.commitId,
      intake: decided.intake,
      undoes: decided.undoes && { ...decided.undoes },
    },
    before: before && { ...before },
    after: { deploy: number, build, artifact },
  });
}

interface Confirmation {
  readonly unheard: readonly string[];
  readonly confirmedAt: Instant | null;
}

/** Waits for the edges, those that other processes speak to included, and names those not heard from; with no running edge nothing is confirmed. */
async function confirm(deps: Deps, { placed, fresh }: Committed): Promise<Confirmation> {
  const { position } = placed;
  await publishTable(deps);
  const connected = new Set(deps.edges.names());
  // An edge holds its stream to one api process; those of others hear of the move from theirs.
  const others = fresh.filter((edge) => !connected.has(edge.name)).map((edge) => edge.name);
  const [behind, unheardElsewhere] = await Promise.all([
    deps.edges.confirmed(position, confirmWithinMs),
    edgesBehind(deps, others, position, confirmWithinMs),
  ]);
  const unheard = [...new Set([...behind, ...unheardElsewhere])];
  if (unheard.length > 0) return { unheard, confirmedAt: null };
  if (connected.size + others.length === 0)
    return { unheard: await edgeNames(deps.db), confirmedAt: null };
  const confirmedAt = deps.clock();
  await confirmUpTo(deps.db, position, confirmedAt);
  return { unheard, confirmedAt };
}

/** Waits until edges that other api processes speak to have confirmed a position; returns those that have not within the time. */
async function edgesBehind(
  deps: Deps,
  names: readonly string[],
  position: number,
  withinMs: number,
): Promise<readonly string[]> {
  const until = performance.now() + withinMs;
  for (;;) {
    if (names.length === 0) return [];
    const left = (await edgesOf(deps.db)).filter(
      (edge) => names.includes(edge.name) && edge.revision < position,
    );
    if (left.length === 0 || performance.now() > until) return left.map((edge) => edge.name);
    await pause(askAgainMs);
  }
}
