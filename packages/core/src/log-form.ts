/** Where secrets could stand in the fields of a log line, for every role alike. */
export const redactedPaths: readonly string[] = [
  'password',
  'secret',
  'token',
  'credential',
  'authorization',
  'cookie',
  '*.password',
  '*.secret',
  '*.token',
  '*.credential',
  '*.authorization',
  '*.cookie',
  'headers.authorization',
  'headers.cookie',
  '*.headers.authorization',
  '*.headers.cookie',
];

/** Texts that carry a secret in themselves: our tokens, what follows Bearer and Basic, and passwords in addresses. */
const secrets: readonly (readonly [RegExp, string])[] = [
  [/vaq[re]?_[\w-]{16,}/g, '[secret]'],
  [/\b(Bearer|Basic) [\w.~+/=-]{8,}/g, '$1 [secret]'],
  [/:\/\/[^/\s:@]*:[^/\s@]+@/g, '://[secret]@'],
];

/** A text without the secrets that it carries in itself. */
export function withoutSecrets(text: string): string {
  return secrets.reduce((clean, [pattern, instead]) => clean.replace(pattern, instead), text);
}

/**
 * An error as it may stand in a log. One of a query repeats the statement with its parameters in its message and its
 * stack: only its cause is logged.
 */
export function errorForLog(error: unknown): unknown {
  if (!(error instanceof Error)) return { message: withoutSecrets(String(error)) };
  const query = 'query' in error && 'params' in error;
  return {
    type: error.name,
    message: query ? 'a query failed' : withoutSecrets(error.message),
    ...('code' in error ? { code: error.code } : {}),
    ...(query ? {} : { stack: withoutSecrets(error.stack ?? '') }),
    ...(error.cause === undefined ? {} : { cause: errorForLog(error.cause) }),
  };
}
