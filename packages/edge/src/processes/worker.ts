import { join } from 'node:path';
import type { RoutingTable } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import type { Logger } from 'pino';
import { makeCompressed } from '../blobs/compressed.ts';
import { makeMemory } from '../blobs/memory.ts';
import { makeVerifiedFiles } from '../blobs/open-verified.ts';
import type { EdgeConfig } from '../config.ts';
import { openLiveTable } from '../routing/live-table.ts';
import { openTableCopy } from '../routing/table-copy.ts';
import { makeFront } from '../serving/front.ts';
import { makeVisits } from '../serving/visits.ts';
import type { ToParent, ToWorker } from './messages.ts';

const toldEveryMs = 1_000;

/** Runs one of several processes that answer visitors, until the first one says that it is over, or is no more. */
export async function runWorker(config: EdgeConfig, log: Logger): Promise<void> {
  const directory = join(config.stateDirectory, 'edge');
  const store = join(config.stateDirectory, 'store');
  const copy = openTableCopy(directory);
  // The first process writes the copy; this one begins with what it finds, in case the api is away.
  const table = await openLiveTable(store, { ...copy, write: () => Promise.resolve() });
  const verified = makeVerifiedFiles(store);
  const compressed = makeCompressed(verified, join(directory, 'compressed'), log);
  const memory = makeMemory(Math.floor(config.memoryBytes / config.processes));
  const visits = makeVisits(Date.now);
  const asks = makeAsks();
  const elsewhere = (say: 'bring' | 'mend') => (artifact: Digest) => asks.ask(say, artifact);
  const bring = config.storeElsewhere ? elsewhere('bring') : null;
  const mend = config.storeElsewhere ? elsewhere('mend') : null;
  const front = makeFront(
    { visits, table, store, memory, compressed, verified, clock: Date.now, bring, mend, log },
    config,
  );
  const count = (): void => {
    const rows = visits.drain();
    if (rows.length > 0) tell({ say: 'counted', rows });
  };
  const counting = setInterval(count, toldEveryMs);
  const stop = async (): Promise<void> => {
    clearInterval(counting);
    await front.close();
    count();
    await Promise.all([compressed.stop(), table.stop()]);
    process.disconnect();
  };
  let artifacts: RoutingTable['artifacts'] = [];
  process.on('message', (message: ToWorker) => {
    if (message.say === 'stop') return void stop();
    if (message.say === 'done') return asks.answered(message.id, message.why);
    artifacts = message.artifacts ?? artifacts;
    if (message.lookKey !== null) table.letLook(message.lookKey);
    void table.adopt({ ...message.table, artifacts });
    return tell({ say: 'adopted', revision: table.revision() });
  });
  // Without the first process nobody tells what is live.
  process.on('disconnect', () => process.exit(0));
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => undefined);
  tell({ say: 'adopted', revision: table.revision() });
  await front.listen();
  tell({ say: 'listens', port: front.port() });
}

function tell(message: ToParent): void {
  process.send?.(message);
}

/** Asks the first process for what only it may fetch. */
function makeAsks() {
  const open = new Map<number, (why: string | null) => void>();
  let last = 0;
  return {
    ask: (say: 'bring' | 'mend', artifact: Digest): Promise<void> =>
      new Promise((resolve, reject) => {
        last += 1;
        open.set(last, (why) => (why === null ? resolve() : reject(new Error(why))));
        tell({ say, id: last, artifact });
      }),
    answered: (id: number, why: string | null): void => {
      open.get(id)?.(why);
      open.delete(id);
    },
  };
}
