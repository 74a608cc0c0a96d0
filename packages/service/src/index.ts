export { type ApiConfig, readApiConfig } from './config.ts';
export { type ApiOptions, type RunningApi, startApi } from './start.ts';
export { type NewPerson, addPerson } from './people/first-people.ts';
export { makeToken } from './people/sign-in.ts';
export { type OpenDatabase, openDatabase } from './database/pool.ts';
export { applyMigrations } from './database/migrate.ts';
export { makeLog } from './log.ts';
export { type MariadbOptions, type OwnMariadb, startMariadb } from './supervision/mariadb.ts';
export { type SuperviseOptions, type Supervision, requireFree, roleTokens, supervise } from './supervision/supervise.ts';
