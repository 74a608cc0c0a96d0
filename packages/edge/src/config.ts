import { z } from 'zod';

const schema = z.object({
  VAQUERO_STATE: z.string().min(1),
  VAQUERO_API: z.url(),
  VAQUERO_EDGE_TOKEN: z.string().min(20),
  VAQUERO_EDGE_PORT: z.coerce.number().int().min(0).max(65_535).default(4680),
  VAQUERO_EDGE_HOST: z.string().default('127.0.0.1'),
  /** How many processes answer visitors. */
  VAQUERO_EDGE_PROCESSES: z.coerce.number().int().min(1).max(64).default(1),
  VAQUERO_EDGE_MEMORY_MB: z.coerce.number().int().min(8).default(256),
  /** Whether the service's store is the folder of this machine, or is reached by HTTP. */
  VAQUERO_STORE: z.enum(['here', 'elsewhere']).default('here'),
  VAQUERO_LOG_LEVEL: z.string().default('info'),
});

/** What the edge role is told at its start. */
export interface EdgeConfig {
  readonly stateDirectory: string;
  readonly api: string;
  readonly token: string;
  readonly port: number;
  readonly host: string;
  /** How many processes answer visitors; with one it is this one. */
  readonly processes: number;
  readonly memoryBytes: number;
  /** The service's store is on another machine: what is served is brought from there. */
  readonly storeElsewhere: boolean;
  readonly logLevel: string;
}

/** Reads the edge's configuration from environment variables, once. Throws an Error that names every fault. */
export function readEdgeConfig(
  environment: Readonly<Record<string, string | undefined>>,
): EdgeConfig {
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
    token: given.VAQUERO_EDGE_TOKEN,
    port: given.VAQUERO_EDGE_PORT,
    host: given.VAQUERO_EDGE_HOST,
    processes: given.VAQUERO_EDGE_PROCESSES,
    memoryBytes: given.VAQUERO_EDGE_MEMORY_MB << 20,
    storeElsewhere: given.VAQUERO_STORE === 'elsewhere',
    logLevel: given.VAQUERO_LOG_LEVEL,
  };
}
