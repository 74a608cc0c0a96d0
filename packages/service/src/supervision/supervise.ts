import { randomBytes } from 'node:crypto';
import { chmod, mkdir, readFile, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { z } from 'zod';
import { type MariadbOptions, type OwnMariadb, startMariadb } from './mariadb.ts';
import { keepRole, type RoleProcess } from './role-process.ts';

/** What the one command is told. */
export interface SuperviseOptions {
  readonly stateDirectory: string;
  /** A server to use instead of one of our own. */
  readonly databaseUrl: string | null;
  readonly port: number;
  readonly edgePort: number;
  readonly healthPort: number;
  /** The command of each role. */
  readonly commands: {
    readonly api: readonly string[];
    readonly runner: readonly string[];
    readonly edge: readonly string[];
  };
  readonly environment: Readonly<Record<string, string | undefined>>;
  readonly durable: boolean;
  readonly log: Logger;
  readonly output: (bytes: Buffer) => void;
  /** Told when a role says that it cannot run here. */
  readonly gaveUp: (role: string) => void;
}

/** The roles under one command. */
export interface Supervision {
  readonly databaseUrl: string;
  readonly pids: () => Readonly<Record<string, number | undefined>>;
  readonly mariadbPid: () => number | undefined;
  /** Opened last, closed first: edge, runner, api, then the database. */
  readonly stop: () => Promise<void>;
}

/**
 * Starts MariaDB, unless another server is named, and the three roles, each a process of its own.
 * Throws when a port is in use, naming it and the variable that changes it.
 */
export async function supervise(options: SuperviseOptions): Promise<Supervision> {
  const { stateDirectory, log } = options;
  await mkdir(stateDirectory, { recursive: true, mode: 0o711 });
  await chmod(stateDirectory, 0o711);
  await takeState(stateDirectory);
  await requireFree(options.port, 'VAQUERO_PORT');
  await requireFree(options.edgePort, 'VAQUERO_EDGE_PORT');
  const tokens = await roleTokens(stateDirectory);
  const mariadb =
    options.databaseUrl === null
      ? await keepMariadb(
          { directory: join(stateDirectory, 'mariadb'), durable: options.durable },
          log,
        )
      : null;
  const databaseUrl = options.databaseUrl ?? mariadb?.url ?? '';
  // Neither the database's address nor a password goes to a role that has no use for it.
  const {
    NODE_EXTRA_CA_CERTS: _,
    VAQUERO_DATABASE_URL: __,
    VAQUERO_FIRST_OPERATOR: firstOperator,
    ...environment
  } = options.environment;
  const shared = {
    ...environment,
    VAQUERO_STATE: stateDirectory,
    VAQUERO_PORT: String(options.port),
    VAQUERO_EDGE_PORT: String(options.edgePort),
    VAQUERO_API: `http://127.0.0.1:${options.port}`,
    VAQUERO_HEALTH_PORT: String(options.healthPort),
  };
  const keep = (
    name: 'api' | 'runner' | 'edge',
    extra: Record<string, string | undefined>,
  ): RoleProcess =>
    keepRole({
      name,
      command: options.commands[name],
      environment: { ...shared, ...extra },
      mounts: name === 'runner',
      log,
      output: options.output,
      gaveUp: () => options.gaveUp(name),
    });
  const roles = [
    keep('api', {
      VAQUERO_FIRST_OPERATOR: firstOperator,
      VAQUERO_DATABASE_URL: databaseUrl,
      VAQUERO_RUNNER_TOKEN: tokens.runner,
      VAQUERO_EDGE_TOKEN: tokens.edge,
    }),
    keep('edge', { VAQUERO_EDGE_TOKEN: tokens.edge }),
    keep('runner', {
      VAQUERO_RUNNER_TOKEN: tokens.runner,
      ...(options.environment.NODE_EXTRA_CA_CERTS === undefined
        ? {}
        : { VAQUERO_MACHINE_CERTIFICATES: '1' }),
    }),
  ];
  return {
    databaseUrl,
    mariadbPid: () => mariadb?.pid(),
    pids: () => Object.fromEntries(roles.map((role) => [role.name, role.pid()])),
    stop: async () => {
      for (const role of roles) role.letGo();
      await stopAll([...roles.toReversed(), ...(mariadb === null ? [] : [mariadb])]);
    },
  };
}

/** Stops one after another, whatever becomes of each; rejects with the first failure once all were tried. */
export async function stopAll(
  all: readonly { readonly stop: () => Promise<void> }[],
): Promise<void> {
  const failures: unknown[] = [];
  for (const one of all) await one.stop().catch((error: unknown) => failures.push(error));
  if (failures.length > 0) throw failures[0];
}

/** One service at a time in one state directory: a second would take the first one's database away. */
async function takeState(stateDirectory: string): Promise<void> {
  const path = join(stateDirectory, 'supervisor.pid');
  const [pid, born] = (await readFile(path, 'utf8').catch(() => '')).split(' ');
  if (
    pid !== undefined &&
    pid !== '' &&
    born === (await bornAt(pid)) &&
    pid !== String(process.pid)
  ) {
    throw new Error(
      `A service is running already in ${stateDirectory} (process ${pid}). Next: use that one, end it, or give this one a VAQUERO_STATE of its own.`,
    );
  }
  await writeFile(path, `${process.pid} ${await bornAt(String(process.pid))}`);
}

/** When a process began, in clock ticks since the machine did; '' when there is none. A reused pid differs here (proc(5), field 22). */
async function bornAt(pid: string): Promise<string> {
  const stat = await readFile(`/proc/${pid}/stat`, 'utf8').catch(() => ''); // No such process.
  return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
}

/** A MariaDB that is started again, on the same port, when it dies. */
interface KeptMariadb {
  readonly url: string;
  readonly pid: () => number;
  readonly stop: () => Promise<void>;
}

async function keepMariadb(options: MariadbOptions, log: Logger): Promise<KeptMariadb> {
  let server: OwnMariadb = await startMariadb(options);
  let stopping = false;
  const kept = (async () => {
    for (;;) {
      await server.ended;
      if (stopping) return;
      log.error({ name: 'mariadb' }, 'the database ended; it is started again');
      server = await startMariadb({ ...options, port: server.port });
    }
  })();
  kept.catch((err: unknown) => log.fatal({ err }, 'the database does not start again'));
  return {
    url: server.url,
    pid: () => server.pid,
    stop: async () => {
      stopping = true;
      await server.stop();
    },
  };
}

/** The tokens of this machine's runner and edge, made once and readable by their owner alone. */
export async function roleTokens(
  stateDirectory: string,
): Promise<{ readonly runner: string; readonly edge: string }> {
  const path = join(stateDirectory, 'role-tokens.json');
  const kept = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    // The first start: they are made now. One that is there and cannot be read is a fault: others would lock out what runs.
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  if (kept !== undefined) return readRoleTokens(path, kept);
  const tokens = {
    runner: `vaqr_${randomBytes(32).toString('base64url')}`,
    edge: `vaqe_${randomBytes(32).toString('base64url')}`,
  };
  await writeFile(path, JSON.stringify(tokens), { mode: 0o600 });
  return tokens;
}

const roleTokensSchema = z.object({ runner: z.string().min(20), edge: z.string().min(20) });

function readRoleTokens(path: string, text: string): { runner: string; edge: string } {
  const read = roleTokensSchema.safeParse(jsonOf(text));
  if (read.success) return read.data;
  throw new Error(
    `${path} does not hold the tokens of this machine’s runner and edge. Next: put back the file as it was, or move it away: new ones are made then.`,
  );
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined; // What is no JSON holds no tokens either: the schema says so.
  }
}

/** Throws when a port of the loopback is taken. */
export function requireFree(port: number, variable: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', (cause: NodeJS.ErrnoException) => {
      const why =
        cause.code === 'EADDRINUSE'
          ? 'is in use by another program'
          : `cannot be opened (${cause.code})`;
      reject(
        new Error(
          `Port ${port} ${why}. Next: stop that program, or choose another port: ${variable}=${port + 100}`,
          { cause },
        ),
      );
    });
    server.listen(port, '127.0.0.1', () => server.close(() => resolve()));
  });
}
