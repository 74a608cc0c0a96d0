import { commaList } from '@vaquero/core';
import { z } from 'zod';
import type { UidRange } from './walls/uids.ts';

const schema = z.object({
  VAQUERO_STATE: z.string().min(1),
  VAQUERO_API: z.url(),
  VAQUERO_RUNNER_TOKEN: z.string().min(20),
  VAQUERO_RUNNER_SLOTS: z.coerce.number().int().min(1).max(64).default(2),
  /** The unprivileged host uids that builds run under: one for each project, circle of trust and slot. */
  VAQUERO_RUNNER_UIDS: z
    .string()
    .regex(/^\d{4,9}-\d{4,9}$/, 'is written FIRST-LAST, such as 64200-64999')
    .default('64200-64999')
    .transform((text) => {
      const [first = 0, last = 0] = text.split('-').map(Number);
      return { first, last };
    })
    .refine(({ first, last }) => first >= 1000 && last < 4_294_967_294 && last - first >= 7, {
      message: 'must be at least eight uids from 1000 on',
    }),
  VAQUERO_RUNNER_WITHOUT_WALLS: z.string().default(''),
  VAQUERO_STEP_SECONDS: z.coerce.number().positive().default(1200),
  VAQUERO_STEP_PROCESSES: z.coerce.number().int().min(8).default(512),
  VAQUERO_BUILD_MEMORY_MB: z.coerce.number().int().min(64).default(4096),
  VAQUERO_BUILD_DISK_MB: z.coerce.number().int().min(8).default(8192),
  VAQUERO_BUILD_LOG_MB: z.coerce.number().min(0.1).default(32),
  /** Outputs of steps and caches of package managers, kept between builds. */
  VAQUERO_OUTPUTS_MB: z.coerce.number().int().min(16).default(8192),
  VAQUERO_CACHES_MB: z.coerce.number().int().min(16).default(4096),
  /** Whether the service's store is the folder of this machine, or is reached by HTTP. */
  VAQUERO_STORE: z.enum(['here', 'elsewhere']).default('here'),
  /** What it is labelled, for recipes that ask for it: names parted by commas. */
  VAQUERO_RUNNER_LABELS: z
    .string()
    .default('')
    .transform(commaList)
    .pipe(
      z.array(z.string().regex(/^[a-z][a-z0-9-]{0,39}$/, 'takes a–z, 0–9 and hyphens')).max(32),
    ),
  /** How long a runner that is told to stop finishes what it builds before it gives that up. */
  VAQUERO_RUNNER_DRAIN_SECONDS: z.coerce.number().int().min(0).max(86_400).default(0),
  VAQUERO_LOG_LEVEL: z.string().default('info'),
});

/** What one build may use. */
export interface Limits {
  readonly stepMs: number;
  readonly processes: number;
  readonly memoryBytes: number;
  readonly diskBytes: number;
  readonly logBytes: number;
}

/** What the runner role is told at its start. */
export interface RunnerConfig {
  readonly stateDirectory: string;
  readonly api: string;
  readonly token: string;
  readonly slots: number;
  readonly uids: UidRange;
  /** The operator wrote out that builds may read and change this machine. */
  readonly withoutWalls: boolean;
  readonly limits: Limits;
  readonly outputBytes: number;
  readonly cacheBytes: number;
  /** The service's store is on another machine: what is new is brought there. */
  readonly storeElsewhere: boolean;
  readonly labels: readonly string[];
  readonly drainMs: number;
  readonly logLevel: string;
}

/** The words an operator must write to run builds without walls: they name the danger. */
export const withoutWallsWords = 'builds-can-read-and-change-this-machine';

/** Reads the runner's configuration from environment variables, once. Throws an Error that names every fault. */
export function readRunnerConfig(
  environment: Readonly<Record<string, string | undefined>>,
): RunnerConfig {
  const read = schema.safeParse(environment);
  if (!read.success) {
    throw new Error(
      `The configuration cannot be used:\n${read.error.issues.map((issue) => `  ${issue.path.join('.')}: ${issue.message}`).join('\n')}`,
    );
  }
  const given = read.data;
  return {
    stateDirectory: given.VAQUERO_STATE,
    api: given.VAQUERO_API.replace(/\/$/, ''),
    token: given.VAQUERO_RUNNER_TOKEN,
    slots: given.VAQUERO_RUNNER_SLOTS,
    uids: given.VAQUERO_RUNNER_UIDS,
    withoutWalls: given.VAQUERO_RUNNER_WITHOUT_WALLS === withoutWallsWords,
    limits: {
      stepMs: given.VAQUERO_STEP_SECONDS * 1000,
      processes: given.VAQUERO_STEP_PROCESSES,
      memoryBytes: given.VAQUERO_BUILD_MEMORY_MB * (1 << 20),
      diskBytes: given.VAQUERO_BUILD_DISK_MB * (1 << 20),
      logBytes: Math.round(given.VAQUERO_BUILD_LOG_MB * (1 << 20)),
    },
    outputBytes: given.VAQUERO_OUTPUTS_MB * (1 << 20),
    cacheBytes: given.VAQUERO_CACHES_MB * (1 << 20),
    storeElsewhere: given.VAQUERO_STORE === 'elsewhere',
    labels: given.VAQUERO_RUNNER_LABELS,
    drainMs: given.VAQUERO_RUNNER_DRAIN_SECONDS * 1000,
    logLevel: given.VAQUERO_LOG_LEVEL,
  };
}
