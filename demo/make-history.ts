import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import {
  buildRoutes,
  type Client,
  environmentRoutes,
  makeClient,
  mapRoutes,
  memberRoutes,
  projectRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import { readEdgeConfig, startEdge } from '@vaquero/edge';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import {
  addPerson,
  byPerson,
  type Deps,
  grantInProject,
  makeLog,
  makeToken,
  readApiConfig,
  roleTokens,
  startApi,
  startMariadb,
} from '@vaquero/service';
import { gather } from './gather.ts';
import type { Happening, Who } from './happening.ts';
import { lookAfter } from './look-after.ts';
import { merge, propose, show, takeUp } from './propose.ts';
import { letIn, makeSignage } from './signage.ts';
import {
  buildAfter,
  cast,
  edit,
  git,
  makeClock,
  newestBuild,
  remoteOf,
  type Stage,
} from './stage.ts';
import { story } from './story.ts';
import { passBy } from './visitor.ts';

const dayMs = 86_400_000;

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
  // Opened last, closed first, whichever of them does not start.
  const opened: { readonly stop: () => Promise<void> }[] = [];
  const failures: string[] = [];
  let stopping: Promise<void> | null = null;
  const stopAll = (): Promise<void> => {
    stopping ??= (async () => {
      for (const one of opened.toReversed()) await one.stop();
    })();
    return stopping;
  };
  // Ctrl-C in the middle of it leaves no database behind.
  const interrupted = (): void =>
    void stopAll().then(
      () => process.exit(130),
      () => process.exit(1),
    );
  process.once('SIGINT', interrupted).once('SIGTERM', interrupted);
  try {
    await tellStory(options, opened, failures);
  } catch (cause) {
    const last = failures.at(-1);
    if (last === undefined) throw cause;
    const said = cause instanceof Error ? cause.message : String(cause);
    throw new Error(
      `The history of the demo could not be made: ${said}\nThe last build that failed was ${last}`,
      { cause },
    );
  } finally {
    await stopAll();
    process.off('SIGINT', interrupted).off('SIGTERM', interrupted);
  }
}

async function tellStory(
  options: HistoryOptions,
  opened: { readonly stop: () => Promise<void> }[],
  failures: string[],
): Promise<void> {
  const { stateDirectory, say } = options;
  const clock = makeClock();
  const midnight = Math.floor(Date.now() / dayMs) * dayMs;
  clock.set(midnight - 22 * dayMs);
  const mariadb = await startMariadb({
    directory: join(stateDirectory, 'mariadb'),
    durable: false,
  });
  opened.push(mariadb);
  const tokens = await roleTokens(stateDirectory);
  const environment = {
    VAQUERO_STATE: stateDirectory,
    VAQUERO_DATABASE_URL: mariadb.url,
    VAQUERO_PORT: String(options.port),
    VAQUERO_EDGE_PORT: String(options.edgePort),
    VAQUERO_API: `http://127.0.0.1:${options.port}`,
    VAQUERO_RUNNER_TOKEN: tokens.runner,
    VAQUERO_EDGE_TOKEN: tokens.edge,
    ...(process.env.VAQUERO_RUNNER_UIDS === undefined
      ? {}
      : { VAQUERO_RUNNER_UIDS: process.env.VAQUERO_RUNNER_UIDS }),
    VAQUERO_LOG_LEVEL: 'error',
    VAQUERO_REPOSITORY_ROOTS: join(stateDirectory, 'elsewhere'),
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
  opened.push(api);
  const edge = await startEdge({ config: readEdgeConfig(environment), log, clock: clock.now });
  opened.push(edge);
  const runner = await startRunner({
    config: readRunnerConfig(environment),
    log,
    clock: clock.now,
  });
  opened.push(runner);
  const people = await addCast(api.deps, options.password);
  const site = join(stateDirectory, 'demo-site');
  const later = join(options.siteDirectory, '..', 'later');
  const stage: Stage = {
    api: `http://127.0.0.1:${options.port}`,
    ...people,
    grant: (project) => grantCast(api.deps, people.ids, project),
    clock,
    site,
    later,
    say,
    failures,
  };
  await prepareSite(stage, options.siteDirectory);
  await stage.grant('timetable');
  for (const [place, happening] of story.entries()) {
    clock.set(midnight - happening.day * dayMs + timeOf(happening.at));
    if (clock.now() > Date.now()) continue; // Early in the day the last happenings are still to come.
    await happen(stage, happening);
    await passBy(options.edgePort, 4 + ((place * 5) % 14));
    if (place % 6 === 5) say(`  history: ${place + 1} of ${story.length}`);
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
    });
    const doing = byPerson(id, 'demo');
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

async function grantCast(
  deps: Deps,
  ids: Readonly<Record<Who, string>>,
  project: string,
): Promise<void> {
  for (const [name, { role }] of Object.entries(cast) as [Who, (typeof cast)[Who]][]) {
    if (role !== 'operator' && role !== null)
      await grantInProject(deps, { personId: ids[name], project, role });
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
    await buildAfter(stage, before, happening.leave === true ? 'running' : 'taken');
    return;
  }
  if ('propose' in happening) return propose(stage, happening);
  if ('show' in happening) return show(stage, happening);
  if ('merge' in happening) return merge(stage, happening);
  if ('takeUp' in happening) return takeUp(stage, happening);
  if ('lookAfter' in happening) return lookAfter(stage, happening);
  const client = stage.clients[who];
  if (happening.act === 'set-secret') {
    await client.call(variableRoutes.setVariableRoute, {
      params: { project: 'timetable', variable: happening.name },
      body: { kind: 'secret', value: happening.value },
    });
    return;
  }
  if (happening.act === 'set-map') {
    const params = { project: 'timetable' };
    const { text, tag } = await client.call(mapRoutes.showMapRoute, { params });
    if (!text.includes(happening.from)) throw new Error(`the map does not say ${happening.from}`);
    await client.call(mapRoutes.setMapRoute, {
      params,
      body: { text: text.replace(happening.from, happening.to), reason: happening.reason },
      seen: tag,
    });
    return;
  }
  if (happening.act === 'make-signage') {
    await makeSignage(stage, who);
    return stage.grant('signage');
  }
  if (happening.act === 'invite') {
    const params = { project: 'timetable' };
    await client.call(memberRoutes.inviteRoute, { params, body: { role: 'builder' } });
    return;
  }
  if (happening.act === 'gather') return gather(stage, who);
  if (happening.act === 'let-in') return letIn(stage, who);
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
