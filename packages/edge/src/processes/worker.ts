import { join } from 'node:path';
import type { Digest } from '@vaquero/core';
import type { Logger } from 'pino';
import { makeCompressed } from '../blobs/compressed.ts';
import { makeMemory } from '../blobs/memory.ts';
import { makeVerifiedFiles } from '../blobs/open-verified.ts';
import type { EdgeConfig } from '../config.ts';
import type { NameAnswer } from '../routing/artifact-names.ts';
import { makeAskNames } from '../routing/ask-names.ts';
import { openLiveTable } from '../routing/live-table.ts';
import { makeReach } from '../routing/reach.ts';
import { openTableCopy } from '../routing/table-copy.ts';
import { makeFront } from '../serving/front.ts';
import { makeVisits } from '../serving/visits.ts';
import type { Asked, ToParent, ToWorker } from './messages.ts';

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
  const reach = makeReach();
  const elsewhere = (say: 'bring' | 'mend') => async (artifact: Digest) => {
    await asks.ask((id) => ({ say, id, artifact }));
  };
  const askName = makeAskNames(table, async (host) => {
    const answer = await asks.ask((id) => ({ say: 'name', id, host }));
    if (answer === null) throw new Error('the first process said nothing of a name');
    return answer;
  });
  const bring = config.storeElsewhere ? elsewhere('bring') : null;
  const mend = config.storeElsewhere ? elsewhere('mend') : null;
  const front = makeFront(
    {
      visits,
      table,
      store,
      memory,
      compressed,
      verified,
      clock: Date.now,
      isApiAway: reach.isAway,
      askName,
      bring,
      mend,
      log,
    },
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
  process.on('message', (message: ToWorker) => {
    if (message.say === 'stop') return void stop();
    if (message.say === 'reach') return reach.note(message.isAway);
    if (message.say === 'done') return asks.answered(message.id, null, message.why);
    if (message.say === 'named') return asks.answered(message.id, message.answer, null);
    if (message.lookKey !== null) table.letLook(message.lookKey);
    void table.adopt(message.table);
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
  const open = new Map<number, (answer: NameAnswer | null, why: string | null) => void>();
  let last = 0;
  return {
    ask: (asking: (id: number) => Asked): Promise<NameAnswer | null> =>
      new Promise((resolve, reject) => {
        last += 1;
        open.set(last, (answer, why) => (why === null ? resolve(answer) : reject(new Error(why))));
        tell(asking(last));
      }),
    answered: (id: number, answer: NameAnswer | null, why: string | null): void => {
      open.get(id)?.(answer, why);
      open.delete(id);
    },
  };
}
