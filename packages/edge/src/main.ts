import { errorForLog, redactedPaths } from '@vaquero/core';
import { pino } from 'pino';
import { readEdgeConfig } from './config.ts';
import { startEdge } from './start.ts';

const log = pino({
  base: { role: 'edge' },
  level: process.env.VAQUERO_LOG_LEVEL ?? 'info',
  timestamp: pino.stdTimeFunctions.isoTime,
  redact: { paths: [...redactedPaths], censor: '[secret]' },
  serializers: { err: errorForLog },
});
try {
  const edge = await startEdge({ config: readEdgeConfig(process.env), log });
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
} catch (err) {
  log.fatal({ err }, 'edge cannot start');
  process.exit(1);
}
