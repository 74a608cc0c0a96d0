import { type Logger, pino } from 'pino';

/** Makes the log of a role: JSON lines on stdout, ISO times, no secret and no query parameter in it. */
export function makeLog(role: string, level: string): Logger {
  return pino({
    base: { role },
    level,
    timestamp: pino.stdTimeFunctions.isoTime,
    redact: {
      paths: [
        '*.password',
        '*.secret',
        '*.token',
        '*.credential',
        'headers.authorization',
        'headers.cookie',
      ],
      censor: '[secret]',
    },
    serializers: { err: safeError },
  });
}

/** DrizzleQueryError repeats the statement with its parameters in its message and stack; only its cause is logged. */
function safeError(error: unknown): unknown {
  if (!(error instanceof Error)) return { message: String(error) };
  const query = 'query' in error && 'params' in error;
  return {
    type: error.name,
    message: query ? 'a query failed' : error.message,
    ...('code' in error ? { code: error.code } : {}),
    ...(query ? {} : { stack: error.stack }),
    ...(error.cause === undefined ? {} : { cause: safeError(error.cause) }),
  };
}
