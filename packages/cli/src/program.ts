import { version } from '@vaquero/contracts';
import { Command, InvalidArgumentError, Option } from 'commander';
import { sweepStore } from './artifacts/sweep.ts';
import {
  buildAgain,
  cancelBuild,
  findBuilds,
  findLines,
  listBuilds,
  showBuild,
} from './builds/builds.ts';
import { follow, writeLog } from './builds/follow.ts';
import { addRunner, drainRunner, dropRunner, listRunners } from './builds/runners.ts';
import type { Context } from './command.ts';
import type { Act, Add } from './declare.ts';
import { showLive } from './environments/live.ts';
import { setOvertaken } from './environments/overtaken.ts';
import { showInspection } from './evidence/inspection.ts';
import {
  checkProvenance,
  writeManifest,
  writeProvenance,
  writeSigningKey,
} from './evidence/provenance.ts';
import { signIn, signOut, whoAmI } from './people/sign-in.ts';
import { listTokens, makeToken, revokeToken } from './people/tokens.ts';
import { listProjects, look, makeProject } from './projects/projects.ts';
import { recipes } from './recipes/declare-recipes.ts';
import { pullRequests } from './refs/declare-pull-requests.ts';
import { addEdge, dropEdge, listEdges } from './releases/edges.ts';
import { showHistory } from './releases/history.ts';
import { liftHold, promote, rollBack } from './releases/moves.ts';
import { listVariables, setVariable, unsetVariable } from './variables/variables.ts';
import { showVisits } from './visits/show-visits.ts';

/** Options that stand before or after any command. */
export interface GlobalOptions {
  readonly address?: string;
  readonly token?: string;
  readonly json?: boolean;
  readonly yes?: boolean;
}

/** Declares the commands; `run` makes the context when one is chosen. */
export function makeProgram(
  run: (options: GlobalOptions, act: (context: Context) => Promise<void>) => Promise<void>,
): Command {
  const program = new Command('vaquero')
    .description('Builds commits, moves tested builds between environments, and goes back.')
    .version(version)
    .configureHelp({ sortSubcommands: false })
    .showSuggestionAfterError()
    .exitOverride();
  const add = (name: string, description: string): Command =>
    program
      .command(name)
      .description(description)
      .addOption(new Option('--address <url>', 'where the service is').env('VAQUERO_ADDRESS'))
      .addOption(
        new Option('--token <secret>', 'a token instead of the kept sign-in')
          .env('VAQUERO_TOKEN')
          .hideHelp(),
      )
      .option('--json', 'the reply as JSON, for programs');
  const act =
    <Args extends readonly unknown[]>(work: (context: Context, ...args: Args) => Promise<void>) =>
    (...all: readonly unknown[]): Promise<void> => {
      const command = all.at(-1);
      const options = command instanceof Command ? command.opts<GlobalOptions>() : {};
      return run(options, (context) => work(context, ...(all.slice(0, -1) as unknown as Args)));
    };

  add('live [project]', 'what is live now, everywhere').action(
    act((context, project: string | undefined) => showLive(context, project)),
  );
  add('history <project> [environment]', 'what was live when, by whom, and what came back')
    .option('--limit <count>', 'how many deploys', whole, 20)
    .action(
      act((context, project: string, environment: string | undefined, options: { limit: number }) =>
        showHistory(context, project, environment ?? 'production', options.limit),
      ),
    );
  add('visits <project> [environment]', 'what visitors ask for, and what they do not find').action(
    act((context, project: string, environment: string | undefined) =>
      showVisits(context, project, environment ?? 'production'),
    ),
  );
  moves(add, act);
  builds(add, act);
  logs(add, act);
  pullRequests(add, act);
  projects(add, act);
  recipes(add, act);
  variables(add, act);
  people(add, act);
  runners(add, act);
  edges(add, act);
  store(add, act);
  return program;
}

function moves(add: Add, act: Act): void {
  add('promote <project>', 'let an environment serve what the one below it serves')
    .option('--to <environment>', 'which environment', 'production')
    .option('--reason <text>', 'stands in the history')
    .option('--yes', 'do not ask')
    .action(
      act((context, project: string, options: { to: string; reason?: string }) =>
        promote(context, project, options.to, options.reason),
      ),
    );
  add('roll-back <project> [environment]', 'serve again what was served before, and hold')
    .option('--to <deploy>', 'a deploy by its number', whole)
    .option('--to-build <build>', 'a build by its number', whole)
    .option('--reason <text>', 'stands in the history and on the hold')
    .option('--yes', 'do not ask')
    .action(
      act(
        (
          context,
          project: string,
          environment: string | undefined,
          options: { to?: number; toBuild?: number; reason?: string },
        ) =>
          rollBack(
            context,
            project,
            environment ?? 'production',
            { deploy: options.to, build: options.toBuild },
            options.reason,
          ),
      ),
    );
  add('lift-hold <project> [environment]', 'let things go live again after a roll back')
    .option('--yes', 'do not ask')
    .action(
      act((context, project: string, environment: string | undefined) =>
        liftHold(context, project, environment ?? 'production'),
      ),
    );
}

function logs(add: Add, act: Act): void {
  add('follow <project> [number]', 'a build’s log as it comes, then how it ended').action(
    act((context, project: string, number: string | undefined) =>
      follow(context, project, number === undefined ? undefined : whole(number)),
    ),
  );
  add('log <project> <number>', 'a build’s whole log, or lines of it')
    .option('--step <name>', 'only what one step said')
    .option('--find <text>', 'only lines that hold a text')
    .action(
      act((context, project: string, number: string, options: { step?: string; find?: string }) =>
        options.step === undefined && options.find === undefined
          ? writeLog(context, project, whole(number))
          : findLines(context, project, whole(number), {
              ...(options.step === undefined ? {} : { step: options.step }),
              ...(options.find === undefined ? {} : { find: options.find }),
            }),
      ),
    );
}

function builds(add: Add, act: Act): void {
  add(
    'overtaken <project> <environment> <stop|finish>',
    'what a newer commit does to an older build',
  ).action(
    act((context, project: string, environment: string, wish: string) =>
      setOvertaken(context, project, environment, wish),
    ),
  );
  add('builds <project>', 'the newest builds')
    .option('--limit <count>', 'how many', whole, 15)
    .action(
      act((context, project: string, options: { limit: number }) =>
        listBuilds(context, project, options.limit),
      ),
    );
  add(
    'find <project> <text...>',
    'builds by number, commit, digest, brand, subject or author',
  ).action(
    act((context, project: string, text: readonly string[]) =>
      findBuilds(context, project, text.join(' ')),
    ),
  );
  add('build <project> <number>', 'one build: is it done, and if it failed, why').action(
    act((context, project: string, number: string) => showBuild(context, project, whole(number))),
  );
  add('cancel <project> <number>', 'end a build that waits or runs').action(
    act((context, project: string, number: string) => cancelBuild(context, project, whole(number))),
  );
  add('provenance <project> <number>', 'where its artifact came from, signed').action(
    act((context, project: string, number: string) =>
      writeProvenance(context, project, whole(number)),
    ),
  );
  add('manifest <project> <number> <file>', 'write what its artifact holds to a file').action(
    act((context, project: string, number: string, file: string) =>
      writeManifest(context, project, whole(number), file),
    ),
  );
  add('check-provenance <file>', 'check a signed statement, without any service')
    .requiredOption('--key <file>', 'the public key, as vaquero signing-key writes it')
    .option('--manifest <file>', 'the manifest of the artifact, as vaquero manifest writes it')
    .action(
      act((context, file: string, options: { key: string; manifest?: string }) =>
        checkProvenance(context, file, { key: options.key, manifest: options.manifest }),
      ),
    );
  add('signing-key', 'the public key that statements are checked with').action(
    act((context) => writeSigningKey(context)),
  );
  add('build-again <project> [number]', 'build the newest commit, or an earlier build’s, again')
    .option('--no-follow', 'do not wait for it')
    .option('--afresh', 'run every step, whatever is known')
    .option('--compared', 'run every step, and say where the result is not the known one')
    .option(
      '--meant',
      'it may be much smaller than what is live: somebody has looked, and means it',
    )
    .action(
      act(
        (
          context,
          project: string,
          number: string | undefined,
          options: { follow: boolean; afresh?: boolean; compared?: boolean; meant?: boolean },
        ) =>
          buildAgain(context, project, number === undefined ? undefined : whole(number), {
            wait: options.follow,
            earlier:
              options.compared === true ? 'compared' : options.afresh === true ? 'left' : 'used',
            meant: options.meant === true,
          }),
      ),
    );
}

function projects(add: Add, act: Act): void {
  add('projects', 'the projects you may see').action(act((context) => listProjects(context)));
  add('make <project>', 'make a project, on a repository hosted here or one elsewhere')
    .option('--url <address>', 'a repository reached by http(s)')
    .option('--path <folder>', 'a repository below a folder that the operator opened')
    .option('--branch <name>', 'the branch that staging follows', 'main')
    .option('--folder <path>', 'the project’s folder in the repository', '')
    .action(
      act(
        (
          context,
          name: string,
          options: { url?: string; path?: string; branch: string; folder: string },
        ) => makeProject(context, name, options, options.branch, options.folder),
      ),
    );
  add('look <project>', 'read the repository’s refs now').action(
    act((context, project: string) => look(context, project)),
  );
}

function variables(add: Add, act: Act): void {
  add('variables <project>', 'variables and secrets that builds are given').action(
    act((context, project: string) => listVariables(context, project)),
  );
  add('set <project> <name>', 'set a variable; its value is asked for')
    .option('--secret', 'never shown again, masked in logs')
    .option('--environment <name>', 'only for builds that the map sends there', '')
    .option('--value <text>', 'the value, for a plain variable in a script')
    .action(
      act(
        (
          context,
          project: string,
          name: string,
          options: { secret?: boolean; environment: string; value?: string },
        ) =>
          setVariable(context, project, name, {
            secret: options.secret === true,
            environment: options.environment,
            value: options.value,
          }),
      ),
    );
  add('unset <project> <name>', 'take a variable away')
    .option('--environment <name>', 'the one for this environment', '')
    .action(
      act((context, project: string, name: string, options: { environment: string }) =>
        unsetVariable(context, project, name, options.environment),
      ),
    );
  add('inspection <project>', 'what artifacts are inspected for, and what stops a build')
    .option('--stops <rules...>', 'the rules whose findings stop a build')
    .action(
      act((context, project: string, options: { stops?: readonly string[] }) =>
        showInspection(context, project, options.stops),
      ),
    );
}

function runners(add: Add, act: Act): void {
  add('runners', 'the machines that build, and whether they take builds').action(
    act((context) => listRunners(context)),
  );
  add('add-runner <name>', 'make a runner known; its token is shown once').action(
    act((context, name: string) => addRunner(context, name)),
  );
  add('drain-runner <name>', 'let a runner finish what it builds and give it nothing more').action(
    act((context, name: string) => drainRunner(context, name, true)),
  );
  add('use-runner <name>', 'give a drained runner builds again').action(
    act((context, name: string) => drainRunner(context, name, false)),
  );
  add('drop-runner <name>', 'take a runner’s token back').action(
    act((context, name: string) => dropRunner(context, name)),
  );
}

function edges(add: Add, act: Act): void {
  add('edges', 'the machines that serve, and whether they are up to date').action(
    act((context) => listEdges(context)),
  );
  add('add-edge <name>', 'make an edge known; its token is shown once').action(
    act((context, name: string) => addEdge(context, name)),
  );
  add('drop-edge <name>', 'take a silent edge’s token back').action(
    act((context, name: string) => dropEdge(context, name)),
  );
}

function store(add: Add, act: Act): void {
  add('sweep', 'put aside what no artifact holds; it is done once an hour by itself').action(
    act((context) => sweepStore(context)),
  );
}

function people(add: Add, act: Act): void {
  add('sign-in <name>', 'sign in and keep a token on this machine')
    .addOption(
      new Option('--password <text>', 'the password; asked for when left out').env(
        'VAQUERO_PASSWORD',
      ),
    )
    .action(
      act((context, name: string, options: { password?: string }) =>
        signIn(context, name, options.password),
      ),
    );
  add('sign-out', 'take the kept token back').action(act((context) => signOut(context)));
  add('who', 'who you are here and what you were granted').action(
    act((context) => whoAmI(context)),
  );
  add('make-token <name>', 'a token for a program or for Git; shown once')
    .addOption(new Option('--kind <kind>', 'what it opens').choices(['all', 'git']).default('all'))
    .option('--days <count>', 'how long it lives', whole, 90)
    .action(
      act((context, name: string, options: { kind: 'all' | 'git'; days: number }) =>
        makeToken(context, name, options.kind, options.days),
      ),
    );
  add('tokens', 'your living tokens').action(act((context) => listTokens(context)));
  add('revoke-token <id>', 'take a token back').action(
    act((context, id: string) => revokeToken(context, id)),
  );
}

function whole(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text))
    throw new InvalidArgumentError(`"${text}" is not a number from 1 on.`);
  return Number(text);
}
