import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type BuildRow, buildRoutes, type Client, environmentRoutes } from '@vaquero/contracts';
import { type Instant, isOpen } from '@vaquero/core';
import { execa } from 'execa';
import type { Edit, Who } from './happening.ts';

/** Who works in the demo, and what each may do. */
export const cast: Readonly<
  Record<
    Who,
    {
      readonly shownAs: string;
      readonly role: 'operator' | 'maintainer' | 'releaser' | 'builder' | null;
    }
  >
> = {
  ines: { shownAs: 'Ines Halloran', role: 'operator' },
  tomas: { shownAs: 'Tomas Revik', role: 'maintainer' },
  jonas: { shownAs: 'Jonas Pell', role: 'releaser' },
  wren: { shownAs: 'Wren Adeyemi', role: 'builder' },
  petra: { shownAs: 'Petra Quist', role: 'builder' },
  // These two may what the groups that they are in may.
  oda: { shownAs: 'Oda Lind', role: null },
  milo: { shownAs: 'Milo Farrow', role: null },
};

/** A clock that is set to a moment and then runs forty times as fast, so that a build of a second takes most of a minute. */
export function makeClock(): { readonly now: () => Instant; readonly set: (at: number) => void } {
  let base = Date.now();
  let since = performance.now();
  return {
    now: () => Math.floor(base + (performance.now() - since) * 40) as Instant,
    set: (at) => {
      base = at;
      since = performance.now();
    },
  };
}

/** What the story is played on: the running service, its people, a working copy, and a clock. */
export interface Stage {
  readonly api: string;
  readonly clients: Readonly<Record<Who, Client>>;
  readonly gitTokens: Readonly<Record<Who, string>>;
  /** Gives everybody their role in a project. */
  readonly grant: (project: string) => Promise<void>;
  readonly clock: ReturnType<typeof makeClock>;
  readonly site: string;
  /** Files that are laid over the site later in the story. */
  readonly later: string;
  readonly say: (text: string) => void;
  /** Builds that failed, as the story or the machine would have it. */
  readonly failures: string[];
}

/** Runs Git in the working copy as one of the cast, at the story's time. */
export function git(stage: Stage, who: Who, args: readonly string[]): Promise<void> {
  return gitAs(stage, { folder: stage.site, who, shownAs: cast[who].shownAs }, args);
}

/** Who commits, and where. */
interface Author {
  readonly folder: string;
  readonly who: string;
  readonly shownAs: string;
}

/** The same as anybody, anywhere. */
export async function gitAs(
  stage: Stage,
  { folder, who, shownAs }: Author,
  args: readonly string[],
): Promise<void> {
  const date = new Date(stage.clock.now()).toISOString();
  await execa('git', [...args], {
    cwd: folder,
    extendEnv: false,
    env: {
      PATH: process.env.PATH ?? '/usr/bin',
      HOME: '/nonexistent',
      GIT_CONFIG_NOSYSTEM: '1',
      GIT_CONFIG_GLOBAL: '/dev/null',
      GIT_TERMINAL_PROMPT: '0',
      GIT_AUTHOR_NAME: shownAs,
      GIT_AUTHOR_EMAIL: `${who}@kettle.example`,
      GIT_AUTHOR_DATE: date,
      GIT_COMMITTER_NAME: shownAs,
      GIT_COMMITTER_EMAIL: `${who}@kettle.example`,
      GIT_COMMITTER_DATE: date,
    },
  });
}

/** Where somebody pushes to. */
export function remoteOf(stage: Stage, who: Who): string {
  const place = stage.api.replace('http://', `http://${who}:${stage.gitTokens[who]}@`);
  return `${place}/git/timetable.git`;
}

/** The number of the newest build. */
export async function newestBuild(stage: Stage): Promise<number> {
  const { builds } = await stage.clients.ines.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 1 },
  });
  return builds[0]?.number ?? 0;
}

/** Waits until the builds that a push brought have ended and, when the site's passed, an environment serves it. */
export async function buildAfter(
  stage: Stage,
  before: number,
  until: 'running' | 'ended' | 'taken',
): Promise<void> {
  for (let tried = 0; tried < 3000; tried += 1) {
    const { builds } = await stage.clients.ines.call(buildRoutes.listBuildsRoute, {
      params: { project: 'timetable' },
      query: { limit: 5 },
    });
    const fresh = builds.filter((build) => build.number > before);
    if (until === 'running' && fresh.some((build) => build.state === 'running')) return;
    if (fresh.length > 0 && fresh.every((build) => !isOpen(build.state))) {
      const site = fresh.find((build) => build.recipeName === 'site');
      if (site?.state !== 'passed' && site?.state !== 'reused') {
        if (site !== undefined) noteFailure(stage, site);
        return;
      }
      if (until === 'ended') return;
      const { environments } = await stage.clients.ines.call(environmentRoutes.lanesRoute, {
        params: { project: 'timetable' },
        query: { days: 1 },
      });
      // One environment or another takes it, that of its pull request or its branch, too.
      if (environments.some((each) => each.serves?.build === site.number)) return;
    }
    await pause(15);
  }
  throw new Error('a build of the demo did not end');
}

/** Remembers what failed: what comes after it in the story may not find what it needs. */
function noteFailure(stage: Stage, { number, failure }: BuildRow): void {
  if (failure !== null)
    stage.failures.push(`build ${number}: ${failure.what} ${failure.why} ${failure.next}`);
}

/** Changes a file of the site; throws when it does not say what is to be replaced. */
export function edit(site: string, change: Edit): void {
  if ('lay' in change || 'revert' in change)
    throw new Error('this edit is made by the push itself');
  if ('file' in change) {
    const path = join(site, change.file);
    const text = readFileSync(path, 'utf8');
    if (!text.includes(change.from)) throw new Error(`${change.file} does not say ${change.from}`);
    writeFileSync(path, text.replace(change.from, change.to));
    return;
  }
  const path = join(site, change.json);
  const content: unknown = JSON.parse(readFileSync(path, 'utf8'));
  if ('set' in change)
    writeFileSync(path, `${JSON.stringify({ ...(content as object), ...change.set }, null, 2)}\n`);
  else {
    const { from, to, name } = change.rename;
    const rows = (content as { id: string }[]).map((row) =>
      row.id === from ? { ...row, id: to, name } : row,
    );
    writeFileSync(path, `${JSON.stringify(rows, null, 2)}\n`);
  }
}
