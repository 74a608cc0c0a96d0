// The one command of an installation: MariaDB (unless VAQUERO_DATABASE_URL names another) and the three roles.
import { join } from 'node:path';
import { makeLog } from './base/log.ts';
import { sayOfNode } from './supervision/node-line.ts';
import { nodeProgram } from './supervision/node-program.ts';
import { supervise } from './supervision/supervise.ts';

const here = import.meta.dirname;
const log = makeLog('supervisor', process.env.VAQUERO_LOG_LEVEL ?? 'info');
const ofNode = sayOfNode(process.versions.node, Date.now());
if (ofNode !== null) log.warn(ofNode);
try {
  const supervision = await supervise({
    stateDirectory: process.env.VAQUERO_STATE ?? join(process.cwd(), '.vaquero'),
    databaseUrl: process.env.VAQUERO_DATABASE_URL ?? null,
    port: Number(process.env.VAQUERO_PORT ?? 4600),
    edgePort: Number(process.env.VAQUERO_EDGE_PORT ?? 4680),
    healthPort: Number(process.env.VAQUERO_HEALTH_PORT ?? 4690),
    commands: {
      api: nodeProgram(join(here, 'api.mjs')),
      runner: nodeProgram(join(here, 'runner.mjs')),
      edge: nodeProgram(join(here, 'edge.mjs')),
    },
    environment: {
      VAQUERO_CONSOLE: join(here, 'console'),
      ...process.env,
      VAQUERO_MIGRATIONS: join(here, 'migrations'),
      // What a role says goes through a pipe, and stands on the terminal all the same.
      VAQUERO_TERMINAL: process.stdout.isTTY ? '1' : undefined,
    },
    durable: true,
    log,
    output: (bytes) => void process.stdout.write(bytes),
    gaveUp: (role) =>
      log.error({ name: role }, 'role cannot run here and is left out; its log says why'),
  });
  let stopping = false;
  const stop = (): void => {
    if (stopping) return;
    stopping = true;
    supervision.stop().then(
      () => process.exit(0),
      (err: unknown) => {
        log.error({ err }, 'stop failed');
        process.exit(1);
      },
    );
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
} catch (err) {
  log.fatal({ err }, 'the service cannot start');
  process.exit(1);
}
