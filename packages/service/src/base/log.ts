import { errorForLog, redactedPaths } from '@vaquero/core';
import { type Logger, pino } from 'pino';

/** Makes the log of a role: JSON lines on stdout, ISO times, no secret and no query parameter in it. */
export function makeLog(role: string, level: string): Logger {
  return pino({
    base: { role },
    level,
    timestamp: pino.stdTimeFunctions.isoTime,
    redact: { paths: [...redactedPaths], censor: '[secret]' },
    serializers: { err: errorForLog },
  });
}
