import pLimit from 'p-limit';
import type { NameAnswer } from './artifact-names.ts';
import type { LiveTable } from './live-table.ts';

/** What an address of an artifact stands for cannot be found out now: the api does not answer, or too many ask. */
export class NameUnknown extends Error {
  override readonly name = 'NameUnknown';
}

/** So many questions are under way at once, and so many are open with those that wait: addresses can be made up, and whoever does must not keep the api busy. */
const mostAtOnce = 8;
const mostOpen = 100;
/** A table that comes while the api is asked makes the answer old before it is here. */
const mostTries = 3;

/** Sees to it that a table knows what a host stands for. Throws `NameUnknown`. */
export type AskNames = (host: string, shown?: string) => Promise<void>;

/** Makes what asks for names; whoever asks for one that is asked for already waits for the same answer. */
export function makeAskNames(
  table: Pick<LiveTable, 'toBeAsked' | 'learn'>,
  fetchName: (host: string) => Promise<NameAnswer>,
): AskNames {
  const limit = pLimit(mostAtOnce);
  const open = new Map<string, Promise<void>>();
  const ask = async (host: string): Promise<void> => {
    const answer = await limit(() => fetchName(host)).catch((cause: unknown) => {
      throw new NameUnknown('the api was not reached', { cause });
    });
    table.learn(host, answer);
  };
  return async (host, shown) => {
    for (let tries = 0; tries < mostTries; tries += 1) {
      const name = table.toBeAsked(host, shown);
      if (name === undefined) return;
      const known = open.get(name);
      if (known === undefined && open.size >= mostOpen)
        throw new NameUnknown('too many names are asked for at once');
      const asked = known ?? ask(name).finally(() => open.delete(name));
      open.set(name, asked);
      await asked;
    }
    throw new NameUnknown('tables come faster than the api answers');
  };
}
