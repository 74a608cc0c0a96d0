import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import {
  buildRoutes,
  type Client,
  environmentRoutes,
  makeClient,
  projectRoutes,
  pullRequestRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import { type Instant, isOpen } from '@vaquero/core';
import { readEdgeConfig, startEdge } from '@vaquero/edge';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import {
  addPerson,
  type Deps,
  grantInProject,
  makeLog,
  makeToken,
  readApiConfig,
  roleTokens,
  startApi,
  startMariadb,
} from '@vaquero/service';
import { execa } from 'execa';
import { type Edit, type Happening, story, type Who } from './story.ts';

const dayMs = 86_400_000;

/** Who works in the demo, and what each may do. */
export const cast: Readonly<
  Record<
    Who,
    { readonly shownAs: string; readonly role: 'operator' | 'maintainer' | 'releaser' | 'builder' }
  >
> = {
  ines: { shownAs: 'Ines Halloran', role: 'operator' },
  tomas: { shownAs: 'Tomas Revik', role: 'maintainer' },
  jonas: { shownAs: 'Jonas Pell', role: 'releaser' },
  wren: { shownAs: 'Wren Adeyemi', role: 'builder' },
  petra: { shownAs: 'Petra Quist', role: 'builder' },
};

/** A clock that is set to a moment and then runs forty times as fast, so that a build of a second takes most of a minute. */
function makeClock(): { readonly now: () => Instant; readonly set: (at: number) => void } {
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

interface Stage {
  readonly api: string;
  readonly clients: Readonly<Record<Who, Client>>;
  readonly gitTokens: Readonly<Record<Who, string>>;
  readonly clock: ReturnType<typeof makeClock>;
  readonly site: string;
  /** Files that are laid over the site later in the story. */
  readonly later: string;
  readonly say: (text: string) => void;
}

/** What the history is made with. */
export interface HistoryOptions {
  readonly stateDirectory: string;
  readonly siteDirectory: string;
  readonly migrationsDirectory: string;
  readonly password: string;
  readonly port: number;
  readonly edgePort: number;
  readonly say: (text: string) => void;
}

/**
 * Makes three weeks of history by running the real roles in one process with a clock of their own: real
 * pushes, builds behind the walls, promotions, a rollback. Nothing is written past them.
 */
export async function makeHistory(options: HistoryOptions): Promise<void> {
  const { stateDirectory, say } = options;
  const clock = makeClock();
  const midnight = Math.floor(Date.now() / dayMs) * dayMs;
  clock.set(midnight - 22 * dayMs);
  const mariadb = await startMariadb({
    directory: join(stateDirectory, 'mariadb'),
    durable: false,
  });
  const tokens = await roleTokens(stateDirectory);
  const environment = {
    VAQUERO_STATE: stateDirectory,
    VAQUERO_DATABASE_URL: mariadb.url,
    VAQUERO_PORT: String(options.port),
    VAQUERO_EDGE_PORT: String(options.edgePort),
    VAQUERO_API: `http://127.0.0.1:${options.port}`,
    VAQUERO_RUNNER_TOKEN: tokens.runner,
    VAQUERO_EDGE_TOKEN: tokens.edge,
    VAQUERO_LOG_LEVEL: 'error',
    VAQUERO_REPOSITORY_ROOTS: stateDirectory,
    // Builds of the story come one after the other: one slot keeps what the next finds warm.
    VAQUERO_RUNNER_SLOTS: '1',
  };
  const log = makeLog('history', 'error');
  const api = await startApi({
    config: readApiConfig(environment),
    log,
    clock: clock.now,
    migrationsDirectory: options.migrationsDirectory,
  });
  const edge = await startEdge({ config: readEdgeConfig(environment), log, clock: clock.now });
  const runner = await startRunner({
    config: readRunnerConfig(environment),
    log,
    clock: clock.now,
  });
  try {
    const people = await addCast(api.deps, options.password);
    const site = join(stateDirectory, 'demo-site');
    const later = join(options.siteDirectory, '..', 'later');
    const stage: Stage = {
      api: `http://127.0.0.1:${options.port}`,
      ...people,
      clock,
      site,
      later,
      say,
    };
    await prepareSite(stage, options.siteDirectory);
    await grantCast(api.deps, people.ids);
    for (const [place, happening] of story.entries()) {
      clock.set(midnight - happening.day * dayMs + timeOf(happening.at));
      if (clock.now() > Date.now()) continue; // Early in the day the last happenings are still to come.
      await happen(stage, happening);
      if (place % 6 === 5) say(`  history: ${place + 1} of ${story.length}`);
    }
  } finally {
    await runner.stop();
    await edge.stop();
    await api.stop();
    await mariadb.stop();
  }
}

function timeOf(clock: string): number {
  return (Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3))) * 60_000;
}

async function addCast(deps: Deps, password: string) {
  const clients: Partial<Record<Who, Client>> = {};
  const gitTokens: Partial<Record<Who, string>> = {};
  const ids: Partial<Record<Who, string>> = {};
  for (const [name, { shownAs, role }] of Object.entries(cast) as [Who, (typeof cast)[Who]][]) {
    const id = await addPerson(deps, {
      name,
      shownAs,
      password,
      role: role === 'operator' ? 'operator' : null,
      projectId: null,
    });
    const doing = { actor: { kind: 'person' as const, id }, through: 'demo', origin: null };
    const all = await makeToken(
      deps,
      { id },
      { name: 'while the demo is made', kind: 'all', days: 23 },
      doing,
    );
    const git = await makeToken(
      deps,
      { id },
      { name: 'pushes of the demo', kind: 'git', days: 23 },
      doing,
    );
    clients[name] = makeClient({
      address: deps.config.origin.replace('localhost', '127.0.0.1'),
      headers: { authorization: `Bearer ${all.secret}`, 'vaquero-client': 'cli' },
    });
    gitTokens[name] = git.secret;
    ids[name] = id;
  }
  return {
    clients: clients as Record<Who, Client>,
    gitTokens: gitTokens as Record<Who, string>,
    ids: ids as Record<Who, string>,
  };
}

async function grantCast(deps: Deps, ids: Readonly<Record<Who, string>>): Promise<void> {
  for (const [name, { role }] of Object.entries(cast) as [Who, (typeof cast)[Who]][]) {
    if (role !== 'operator')
      await grantInProject(deps, { personId: ids[name], project: 'timetable', role });
  }
}

async function prepareSite(stage: Stage, from: string): Promise<void> {
  rmSync(stage.site, { recursive: true, force: true });
  mkdirSync(stage.site, { recursive: true });
  cpSync(from, stage.site, { recursive: true });
  await git(stage, 'wren', ['init', '--quiet', '--initial-branch=main']);
  await stage.clients.ines.call(projectRoutes.makeProjectRoute, {
    body: { name: 'timetable', repository: { kind: 'hosted' } },
  });
}

function git(stage: Stage, who: Who, args: readonly string[]): Promise<void> {
  return gitAs(stage, { folder: stage.site, who, shownAs: cast[who].shownAs }, args);
}

interface Author {
  readonly folder: string;
  readonly who: string;
  readonly shownAs: string;
}

async function gitAs(
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

async function happen(stage: Stage, happening: Happening): Promise<void> {
  const { who } = happening;
  if ('push' in happening) {
    if ('revert' in happening.edit) await git(stage, who, ['revert', '--no-commit', 'HEAD']);
    else if ('lay' in happening.edit)
      cpSync(join(stage.later, happening.edit.lay), stage.site, { recursive: true });
    else edit(stage.site, happening.edit);
    await git(stage, who, ['add', '--all']);
    await git(stage, who, ['commit', '--quiet', '--allow-empty', '--message', happening.push]);
    const before = await newestBuild(stage);
    await git(stage, who, ['push', '--quiet', remoteOf(stage, who), 'main']);
    await buildAfter(stage, before, happening.leave === true);
    return;
  }
  if ('propose' in happening) return propose(stage, happening);
  if ('merge' in happening) return merge(stage, happening);
  if ('takeUp' in happening) return takeUp(stage, happening);
  const client = stage.clients[who];
  if (happening.act === 'set-secret') {
    await client.call(variableRoutes.setVariableRoute, {
      params: { project: 'timetable' },
      body: { name: happening.name, kind: 'secret', value: happening.value, environment: '' },
    });
    return;
  }
  if (happening.act === 'cancel') {
    const build = await newestBuild(stage);
    await client.call(buildRoutes.cancelBuildRoute, { params: { project: 'timetable', build } });
    return;
  }
  const { environments } = await client.call(environmentRoutes.lanesRoute, {
    params: { project: 'timetable' },
    query: { days: 1 },
  });
  const production = environments.find((each) => each.name === 'production');
  const staging = environments.find((each) => each.name === 'staging');
  if (production === undefined || staging?.serves == null)
    throw new Error('the demo has lost its environments');
  const params = { project: 'timetable', environment: 'production' };
  const seen = { generation: production.generation, artifact: production.serves?.artifact ?? null };
  if (happening.act === 'promote')
    await client.call(environmentRoutes.promoteRoute, {
      params,
      body: { from: 'staging', artifact: staging.serves.artifact, seen },
    });
  else if (happening.act === 'roll-back')
    await client.call(environmentRoutes.rollBackRoute, {
      params,
      body: { reason: happening.reason, seen },
    });
  else
    await client.call(environmentRoutes.liftHoldRoute, {
      params,
      body: { generation: production.generation },
    });
}

function remoteOf(stage: Stage, who: Who): string {
  const place = stage.api.replace('http://', `http://${who}:${stage.gitTokens[who]}@`);
  return `${place}/git/timetable.git`;
}

async function propose(
  stage: Stage,
  { who, propose: title, branch, edit: change }: Extract<Happening, { propose: string }>,
): Promise<void> {
  await git(stage, who, ['checkout', '--quiet', '-b', branch]);
  edit(stage.site, change);
  await git(stage, who, ['commit', '--quiet', '--all', '--message', title]);
  await git(stage, who, ['push', '--quiet', remoteOf(stage, who), branch]);
  await git(stage, who, ['checkout', '--quiet', 'main']);
  const before = await newestBuild(stage);
  await stage.clients[who].call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch, title },
  });
  await buildAfter(stage, before, false);
}

async function merge(
  stage: Stage,
  { who, merge: branch }: Extract<Happening, { merge: string }>,
): Promise<void> {
  const message = `Merge ${branch}`;
  await git(stage, who, ['merge', '--quiet', '--no-ff', '--message', message, branch]);
  const before = await newestBuild(stage);
  await git(stage, who, ['push', '--quiet', remoteOf(stage, who), 'main']);
  await buildAfter(stage, before, false);
}

async function takeUp(
  stage: Stage,
  { who, takeUp: title, author, branch, edit: change }: Extract<Happening, { takeUp: string }>,
): Promise<void> {
  const folder = `${stage.site}-of-an-outsider`;
  await git(stage, who, ['clone', '--quiet', '--no-hardlinks', '.', folder]);
  const outsider = { folder, who: 'visitor', shownAs: author };
  await gitAs(stage, outsider, ['checkout', '--quiet', '-b', branch]);
  edit(folder, change);
  await gitAs(stage, outsider, ['commit', '--quiet', '--all', '--message', title]);
  await stage.clients[who].call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch, title, place: folder },
  });
}

async function newestBuild(stage: Stage): Promise<number> {
  const { builds } = await stage.clients.ines.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 1 },
  });
  return builds[0]?.number ?? 0;
}

/** Waits until the builds that a push brought have ended and, when the site's passed, staging serves it. */
async function buildAfter(stage: Stage, before: number, leave: boolean): Promise<void> {
  for (let tried = 0; tried < 3000; tried += 1) {
    const { builds } = await stage.clients.ines.call(buildRoutes.listBuildsRoute, {
      params: { project: 'timetable' },
      query: { limit: 5 },
    });
    const fresh = builds.filter((build) => build.number > before);
    if (leave && fresh.some((build) => build.state === 'running')) return;
    if (fresh.length > 0 && fresh.every((build) => !isOpen(build.state))) {
      const site = fresh.find((build) => build.recipeName === 'site');
      if (site?.state !== 'passed' && site?.state !== 'reused') return;
      const { environments } = await stage.clients.ines.call(environmentRoutes.lanesRoute, {
        params: { project: 'timetable' },
        query: { days: 1 },
      });
      if (environments.find((each) => each.name === 'staging')?.serves?.build === site.number)
        return;
    }
    await pause(15);
  }
  throw new Error('a build of the demo did not end');
}

function edit(site: string, change: Edit): void {
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
