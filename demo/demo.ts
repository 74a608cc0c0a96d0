// The demo: three weeks of history the first time, then the service as one command.
import { randomBytes } from 'node:crypto';
import {
  createWriteStream,
  existsSync,
  fchmodSync,
  mkdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { unmountBelow } from '@vaquero/runner';
import { makeLog, nodeProgram, requireFree, supervise } from '@vaquero/service';
import { openCrewRota } from './crew-rota.ts';
import { joinHarbourOffice, openHarbourOffice } from './harbour-office.ts';
import { makeHistory } from './make-history.ts';
import { openPost } from './post.ts';
import { cast } from './stage.ts';
import { walkAbout } from './visitor.ts';

const here = import.meta.dirname;
const root = join(here, '..');
const state = process.env.VAQUERO_STATE ?? join(root, '.vaquero', 'demo');
const port = Number(process.env.VAQUERO_PORT ?? 4600);
const edgePort = Number(process.env.VAQUERO_EDGE_PORT ?? 4680);
const healthPort = Number(process.env.VAQUERO_HEALTH_PORT ?? edgePort + 1);
const say = (text: string): void => void process.stderr.write(`${text}\n`);

function fail(text: string): never {
  say(text);
  process.exit(1);
}

/** One demo at a time in one state directory. */
function takePlace(): void {
  const path = join(state, 'demo.pid');
  const pid = existsSync(path) ? Number(readFileSync(path, 'utf8')) : 0;
  if (
    pid > 0 &&
    pid !== process.pid &&
    existsSync(`/proc/${pid}`) &&
    readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('demo')
  ) {
    fail(
      `A demo is running already (process ${pid}), at http://localhost:${port}.\nNext: use that one, end it with Ctrl-C, or start another with VAQUERO_STATE, VAQUERO_PORT and VAQUERO_EDGE_PORT of its own.`,
    );
  }
  mkdirSync(state, { recursive: true, mode: 0o711 });
  writeFileSync(path, String(process.pid));
}

function passwordOfTheCast(): string {
  const path = join(state, 'demo-password');
  if (!existsSync(path))
    writeFileSync(path, `lune-${randomBytes(4).toString('hex')}`, { mode: 0o600 });
  return readFileSync(path, 'utf8');
}

async function historyOnce(password: string): Promise<void> {
  const done = join(state, 'history-made');
  if (existsSync(done)) return;
  // A demo that was killed while it made its history may have left layers mounted.
  await unmountBelow(state);
  for (const name of [
    'mariadb',
    'repositories',
    'store',
    'edge',
    'slots',
    'demo-site',
    'elsewhere',
    'git-host',
    'crew-rota',
    'role-tokens.json',
  ])
    rmSync(join(state, name), { recursive: true, force: true });
  const begun = Date.now();
  say('making three weeks of history with the real service, at forty times the speed of time …');
  await makeHistory({
    stateDirectory: state,
    siteDirectory: join(root, 'demo', 'site'),
    migrationsDirectory: join(here, 'migrations'),
    password,
    port,
    edgePort,
    say,
  });
  writeFileSync(done, '');
  say(`  history made: ${((Date.now() - begun) / 1000).toFixed(1)} s`);
}

/** Waits until something answers at an address, whatever it says; 15 s at most, since a role may have given up. */
async function answersAt(address: string): Promise<void> {
  for (let tried = 0; tried < 300; tried += 1) {
    const answers = await fetch(address).then(
      () => true,
      () => false,
    );
    if (answers) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

async function main(): Promise<void> {
  takePlace();
  await requireFree(port, 'VAQUERO_PORT').catch((error: Error) => fail(error.message));
  await requireFree(edgePort, 'VAQUERO_EDGE_PORT').catch((error: Error) => fail(error.message));
  const password = passwordOfTheCast();
  await historyOnce(password);
  const begun = Date.now();
  const office = await openHarbourOffice(port + 91);
  const mailFile = join(state, 'mail.txt');
  const post = await openPost(port + 92, mailFile);
  const rota = await openCrewRota(port + 93, state, join(root, 'demo', 'rota'));
  const logPath = join(state, 'service.log');
  const file = createWriteStream(logPath, { flags: 'a', mode: 0o600 });
  file.once('open', (descriptor: number) => fchmodSync(descriptor, 0o600));
  const log = makeLog('supervisor', 'info');
  const supervision = await supervise({
    stateDirectory: state,
    databaseUrl: process.env.VAQUERO_DATABASE_URL ?? null,
    port,
    edgePort,
    healthPort,
    commands: {
      api: nodeProgram(join(here, 'api.mjs')),
      runner: nodeProgram(join(here, 'runner.mjs')),
      edge: nodeProgram(join(here, 'edge.mjs')),
    },
    environment: {
      ...office?.environment,
      ...post?.environment,
      ...rota?.environment,
      ...process.env,
      VAQUERO_MIGRATIONS: join(here, 'migrations'),
      VAQUERO_CONSOLE: join(here, 'console'),
      VAQUERO_REPOSITORY_ROOTS: process.env.VAQUERO_REPOSITORY_ROOTS ?? join(state, 'elsewhere'),
    },
    durable: true,
    log: log.child({}, { level: 'warn' }),
    output: (bytes) => void file.write(bytes),
    gaveUp: (role) =>
      say(`The ${role} cannot run here and is left out. Its reason stands in ${logPath}.`),
  });
  let stopping = false;
  let goHome = (): void => undefined;
  const stop = (): void => {
    if (stopping) return;
    stopping = true;
    goHome();
    say('\nstopping …');
    Promise.all([supervision.stop(), rota?.stop()]).then(
      () => {
        rmSync(join(state, 'demo.pid'), { force: true });
        process.exit(0);
      },
      (error: unknown) => fail(String(error)),
    );
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  const ports = [port, edgePort, healthPort];
  await Promise.all(ports.map((one) => answersAt(`http://127.0.0.1:${one}/health`)));
  say(`  up after ${((Date.now() - begun) / 1000).toFixed(1)} s\n`);
  if (office !== null)
    await joinHarbourOffice(`http://localhost:${port}`, { name: 'milo', ...cast.milo, password });
  const origin = `http://localhost:${port}`;
  await post?.proveAddresses(origin, haveAddresses, password);
  await rota?.makeProject(origin, 'ines', password);
  goHome = walkAbout(edgePort);
  process.stdout.write(
    `${whereToLook(password, { logPath, mailFile, hasOffice: office !== null })}\n`,
  );
}

/** Whose commits bear their name here; of the others it is told as Git has it. */
const haveAddresses = ['wren', 'tomas'];

function whereToLook(
  password: string,
  {
    logPath,
    mailFile,
    hasOffice,
  }: { readonly logPath: string; readonly mailFile: string; readonly hasOffice: boolean },
): string {
  const people = Object.entries(cast).map(
    ([name, { shownAs, role }]) =>
      `  ${name.padEnd(8)} ${shownAs.padEnd(16)} ${role ?? 'what a group of theirs may'}`,
  );
  const vaquero = './vaquero';
  const where = port === 4600 ? '' : `\n  export VAQUERO_ADDRESS=http://localhost:${port}`;
  return `Vaquero runs. Ctrl-C stops it.

Console      http://localhost:${port}/p/timetable
Production   http://timetable.localhost:${edgePort}
Staging      http://staging.timetable.localhost:${edgePort}
A deep link  http://timetable.localhost:${edgePort}/planner/lune-quay/orrin
Repository   http://localhost:${port}/git/timetable.git   (a working copy: ${join(state, 'demo-site')})
Log          ${logPath}
Mail         ${mailFile}

Who can sign in, all with the password ${password}
${people.join('\n')}${hasOffice ? '\nMilo signs in by the harbour office, too: a stand-in, where one chooses who one is.' : ''}

Five commands to try next, in another terminal:${where}
  ${vaquero} sign-in ines --password ${password}
  ${vaquero} live
  ${vaquero} promote timetable
  ${vaquero} roll-back timetable --reason "not what we meant"
  ${vaquero} history timetable`;
}

await main().catch((error: unknown) =>
  fail(error instanceof Error ? error.message : String(error)),
);
