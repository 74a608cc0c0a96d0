import type { Instant } from '@vaquero/core';
import type { Logger } from 'pino';
import type { Db } from '../database/pool.ts';
import type { ApiConfig } from './config.ts';
import type { InstallationKeys } from './installation-keys.ts';

/**
 * What the use cases of the api work with; made once in start.ts and passed as plain values. What a folder adds to it
 * stands beside what it adds (`declare module`), so that this file knows none of them.
 */
export interface Deps {
  readonly config: ApiConfig;
  readonly clock: () => Instant;
  readonly newId: () => string;
  /** Names this process among those of the installation. */
  readonly instance: string;
  readonly db: Db;
  readonly keys: InstallationKeys;
  readonly log: Logger;
}
