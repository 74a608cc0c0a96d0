import type { Deps } from '../base/deps.ts';
import { forgetUnbuilt } from '../changes/change-rows.ts';
import { forgetIntakes } from '../intakes/intake-rows.ts';

const keptMs = 90 * 86_400_000;
/** So many at once: nobody waits for it, and nothing is locked for long. */
const mostAtOnce = 2000;

/**
 * Forgets what looks left behind and nobody asks for any more: changes that no build came of, and intakes that ended,
 * both after 90 days. The log keeps what was seen, and the ledger what became of it.
 */
export async function sweepLooks(deps: Pick<Deps, 'db' | 'clock'>): Promise<void> {
  const { db } = deps;
  const before = deps.clock() - keptMs;
  await forgetUnbuilt(db, before, mostAtOnce);
  await forgetIntakes(db, before, mostAtOnce);
}
