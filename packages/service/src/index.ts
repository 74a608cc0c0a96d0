export { type Swept, sweepStore } from './artifacts/sweep-store.ts';
export { byPerson } from './audit/record.ts';
export { buildOnSchedule, lastDue } from './builds/build-on-schedule.ts';
export { type ApiConfig, readApiConfig } from './config.ts';
export { takeLease } from './database/leases.ts';
export { applyMigrations } from './database/migrate.ts';
export { type OpenDatabase, openDatabase } from './database/pool.ts';
export { strayRows } from './database/stray-rows.ts';
export type { Deps } from './deps.ts';
export { openApi } from './http/open-api.ts';
export { undeclaredRefusals } from './http/serve-route.ts';
export { makeLog } from './log.ts';
export { keepFamilies } from './map/keep-families.ts';
export { addPerson, grantInProject, type NewPerson } from './people/first-people.ts';
export { makeToken, sweepTries } from './people/sign-in.ts';
export { projectByName } from './projects/project-rows.ts';
export { publishTable, tableSince } from './releases/publish-table.ts';
export { type ApiOptions, type RunningApi, startApi } from './start.ts';
export { type MariadbOptions, type OwnMariadb, startMariadb } from './supervision/mariadb.ts';
export { nodeProgram } from './supervision/node-program.ts';
export {
  requireFree,
  roleTokens,
  type SuperviseOptions,
  type Supervision,
  supervise,
} from './supervision/supervise.ts';
