import { readApiConfig } from './base/config.ts';
import { makeLog } from './base/log.ts';
import { DatabaseUnfit } from './database/migrate.ts';
import { startApi } from './start.ts';
import { endOnSignals } from './supervision/role-main.ts';
import { cannotRun } from './supervision/role-process.ts';

let log = makeLog('api', 'info');
try {
  const config = readApiConfig(process.env);
  log = makeLog('api', config.logLevel);
  const migrationsDirectory =
    process.env.VAQUERO_MIGRATIONS ?? new URL('../migrations', import.meta.url).pathname;
  const api = await startApi({ config, log, migrationsDirectory });
  endOnSignals(api.stop, (err) => log.error({ err }, 'stop failed'));
} catch (err) {
  log.fatal({ err }, 'api cannot start');
  const isUnfit =
    err instanceof DatabaseUnfit ||
    (err instanceof Error && err.message.startsWith('The configuration'));
  process.exit(isUnfit ? cannotRun : 1);
}
