import { createServer } from 'node:http';
import { errorForLog, redactedPaths } from '@vaquero/core';
import { pino } from 'pino';
import { readRunnerConfig } from './config.ts';
import { startRunner } from './start.ts';

/** The supervisor reads this code as: starting again will not help. */
const cannotRun = 78;
const log = pino({
  base: { role: 'runner' },
  level: process.env.VAQUERO_LOG_LEVEL ?? 'info',
  timestamp: pino.stdTimeFunctions.isoTime,
  redact: { paths: [...redactedPaths], censor: '[secret]' },
  serializers: { err: errorForLog },
});
try {
  const runner = await startRunner({ config: readRunnerConfig(process.env), log });
  const health = createServer((_req, res) => {
    res.writeHead(runner.isReady() ? 200 : 503, { 'content-type': 'application/json' });
    res.end(JSON.stringify({ role: 'runner', ok: runner.isReady() }));
  });
  const port = Number(process.env.VAQUERO_HEALTH_PORT ?? 0);
  if (port > 0)
    health
      .on('error', (err) => log.warn({ err }, 'the health port cannot be opened'))
      .listen(port, '127.0.0.1');
  let stopping = false;
  const stop = (): void => {
    if (stopping) process.exit(1);
    stopping = true;
    setTimeout(() => process.exit(1), 7_000).unref();
    health.close();
    runner.stop().then(
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
  log.fatal({ err }, 'runner cannot start');
  process.exit(cannotRun);
}
