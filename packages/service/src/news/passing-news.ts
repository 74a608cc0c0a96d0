import type { PartOfProject } from '@vaquero/core';
import type { Logger } from 'pino';
import { startLoop } from '../base/loop.ts';
import type { Db } from '../database/pool.ts';
import { freshEdges } from '../machines/edge-rows.ts';
import { runningNow, troublesOf } from './standing-rows.ts';

declare module '../base/deps.ts' {
  interface Deps {
    readonly news: PassingNews;
  }
}

/** Something looks different that nobody decided; `project` null concerns all of them. */
export interface News {
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly what: PartOfProject;
  readonly build?: number;
}

/**
 * Tells what changes without a decision: how far the steps of running builds are, which edges run, which repositories
 * cannot be read. It has no place in the log and cannot be asked for later. While somebody listens, the rows are
 * compared once a second, whichever process wrote them, and at once when this one took a report.
 */
export interface PassingNews {
  readonly listen: (listener: (news: News) => void) => () => void;
  readonly noteReport: () => void;
  readonly stop: () => Promise<void>;
}

const lookEveryMs = 1000;

/** Begins to compare. */
export function makePassingNews(db: Db, log: Logger): PassingNews {
  const listeners = new Set<(news: News) => void>();
  /** Those who have listened for less than a turn: what changed after they looked and before they listened they have missed. */
  const fresh = new Set<(news: News) => void>();
  let known: ReadonlyMap<string, Standing> | null = null;
  let comparing: Promise<void> = Promise.resolve();

  const compare = async (): Promise<void> => {
    if (listeners.size === 0) {
      known = null;
      return;
    }
    const before = known;
    const now = new Map((await standings(db)).map((one) => [one.of, one]));
    known = now;
    const all = [...now.values()];
    tell(
      fresh,
      all.filter(({ isNotable }) => isNotable),
    );
    fresh.clear();
    if (before !== null)
      tell(
        listeners,
        all.filter(({ of, stands }) => before.get(of)?.stands !== stands),
      );
  };
  let asked = false;
  const inTurn = (): Promise<void> => {
    const next = comparing.then(() => {
      asked = false;
      return compare();
    });
    comparing = next.catch(() => undefined); // The loop says so; the next one must not wait on it.
    return next;
  };
  return {
    listen: (listener) => {
      listeners.add(listener);
      fresh.add(listener);
      return () => {
        listeners.delete(listener);
        fresh.delete(listener);
      };
    },
    noteReport: () => {
      // One that waits for its turn sees this report, too.
      if (!asked) inTurn().catch(() => undefined); // The loop's next turn makes up for it.
      asked = true;
    },
    stop: startLoop(log, 'passing news', lookEveryMs, inTurn),
  };
}

function tell(listeners: ReadonlySet<(news: News) => void>, standings: readonly Standing[]): void {
  for (const { news } of standings) for (const listener of [...listeners]) listener(news);
}

/** How something stands, as a text that is another one once it stands otherwise. */
interface Standing {
  readonly of: string;
  readonly stands: string;
  /** It stands otherwise than it mostly does, and may stay so: whoever comes is told. */
  readonly isNotable: boolean;
  readonly news: News;
}

/** How everything stands that changes without a decision. */
async function standings(db: Db): Promise<readonly Standing[]> {
  const [running, edges, troubles] = await Promise.all([
    runningNow(db),
    freshEdges(db),
    troublesOf(db),
  ]);
  return [
    ...running.map(({ attempt, id, name, build, begun, ended, tries }): Standing => {
      const news = { project: { id, name }, what: 'build', build } as const;
      return { of: attempt, stands: `${begun} ${ended} ${tries}`, isNotable: false, news };
    }),
    {
      of: 'edges',
      stands: edges.map((edge) => edge.name).join(),
      isNotable: edges.length === 0,
      news: { project: null, what: 'environment' },
    },
    {
      of: 'repositories',
      stands: JSON.stringify(troubles),
      isNotable: troubles.length > 0,
      news: { project: null, what: 'repository' },
    },
  ];
}
