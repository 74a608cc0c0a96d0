import cluster from 'node:cluster';
import { errorForLog, redactedPaths } from '@vaquero/core';
import { pino } from 'pino';
import { type EdgeConfig, readEdgeConfig } from './config.ts';
import { runWorker } from './processes/worker.ts';
import { startEdge } from './start.ts';

const log = pino({
  base: { role: 'edge' },
  level: process.env.VAQUERO_LOG_LEVEL ?? 'info',
  timestamp: pino.stdTimeFunctions.isoTime,
  redact: { paths: [...redactedPaths], censor: '[secret]' },
  serializers: { err: errorForLog },
});
try {
  const config = readEdgeConfig(process.env);
  if (cluster.isWorker) await runWorker(config, log);
  else await runEdge(config);
} catch (err) {
  log.fatal({ err }, 'edge cannot start');
  process.exit(1);
}

async function runEdge(config: EdgeConfig): Promise<void> {
  const edge = await startEdge({ config, log });
  let stopping = false;
  const stop = (): void => {
    if (stopping) process.exit(1);
    stopping = true;
    setTimeout(() => process.exit(1), 7_000).unref();
    edge.stop().then(
      () => process.exit(0),
      (err: unknown) => {
        log.error({ err }, 'stop failed');
        process.exit(1);
      },
    );
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
}
