export { type Swept, sweepStore } from './artifacts/sweep-store.ts';
export { byPerson } from './audit/record.ts';
export { type ApiConfig, readApiConfig } from './base/config.ts';
export type { Deps } from './base/deps.ts';
export { makeLog } from './base/log.ts';
export { buildOnSchedule, lastDue } from './builds/build-on-schedule.ts';
export { takeLease } from './database/leases.ts';
export { applyMigrations } from './database/migrate.ts';
export { type OpenDatabase, openDatabase } from './database/pool.ts';
export { strayRows } from './database/stray-rows.ts';
export { keepFamilies } from './families/keep-families.ts';
export { openApi } from './http/open-api.ts';
export { undeclaredRefusals } from './http/serve-route.ts';
export { addPerson, grantInProject, type NewPerson } from './people/first-people.ts';
export { makeToken, sweepTries } from './people/sign-in.ts';
export { projectByName } from './projects/project-rows.ts';
export { publishTable, tableSince } from './routing/publish-table.ts';
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
