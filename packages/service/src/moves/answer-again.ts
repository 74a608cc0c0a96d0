import { setTimeout as pause } from 'node:timers/promises';
import type { MoveReply } from '@vaquero/contracts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import { type DeployView, deployById, deployOfCall } from '../environments/ledger-rows.ts';
import { edgesOf } from '../machines/edge-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { viewDeploy } from '../views/view-environments.ts';
import type { MoveCall } from './go-live.ts';

const confirmedWithinMs = 3_000;
const askAgainMs = 50;

/** A deploy, once it is confirmed or that has taken too long: the first call for it may still wait for its edges. */
async function confirmedSoon(deps: Deps, id: string): Promise<DeployView> {
  for (const until = performance.now() + confirmedWithinMs; ; await pause(askAgainMs)) {
    const deploy = await deployById(deps.db, id);
    if (deploy.confirmedAt !== null || performance.now() > until) return deploy;
  }
}

/**
 * Answers a call for a move that was carried out before, however long ago: what it came to stands in the ledger.
 * Undefined for one that was not. Refuses: key-used-otherwise.
 */
export async function answerAgain(
  deps: Deps,
  { project, environment, keyed }: MoveCall,
): Promise<MoveReply | undefined> {
  if (keyed === null) return undefined;
  const known = await deployOfCall(deps.db, keyed);
  if (known === undefined) return undefined;
  if (known.call !== keyed.call) return refused({ code: 'key-used-otherwise', key: keyed.key });
  const [deploy, before, edges, now] = await Promise.all([
    confirmedSoon(deps, known.id),
    known.previousDeployId === null ? null : deployById(deps.db, known.previousDeployId),
    edgesOf(deps.db),
    environmentByName(deps.db, project.id, environment.name),
  ]);
  const artifact = before?.artifact ?? null;
  const behind = edges.filter((edge) => edge.revision < deploy.position);
  const isConfirmed = deploy.confirmedAt !== null;
  return {
    environment: environment.name,
    address: addressOf(hostOfEnvironment(deps.config, project.name, environment)),
    deploy: viewDeploy(deploy, false),
    before: before && {
      deploy: before.number,
      build: before.build,
      artifact: before.artifact,
    },
    confirmed: isConfirmed,
    unheard: isConfirmed ? [] : behind.map(({ name }) => ({ edge: name, mayServe: artifact })),
    ms: null,
    generation: now?.generation ?? environment.generation,
  };
}
