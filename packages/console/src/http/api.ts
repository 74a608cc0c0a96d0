import { QueryClient } from '@tanstack/react-query';
import { CallRefused, makeClient, ServiceUnreachable } from '@vaquero/contracts';

/** The console's client: same origin, session cookie, and the header that no forged request can carry. */
export const api = makeClient({ address: '', headers: { 'vaquero-request': 'console' } });

/** What went wrong with a call, in two sentences. */
export interface Trouble {
  readonly what: string;
  readonly next: string;
  readonly code: string;
}

/** Says a failed call in words. */
export function troubleOf(error: unknown): Trouble {
  if (error instanceof CallRefused)
    return { what: error.problem.detail, next: error.problem.next, code: error.problem.code };
  if (error instanceof ServiceUnreachable)
    return {
      what: 'The service does not answer.',
      next: 'Sites keep serving. It is asked again by itself.',
      code: 'unreachable',
    };
  return {
    what: error instanceof Error ? error.message : String(error),
    next: 'Load the page again.',
    code: 'fault',
  };
}

/** One cache for all that the service said. Refusals are answers and are not asked again; silence is. */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (failures, error) =>
        !(error instanceof CallRefused && error.problem.status < 500) && failures < 3,
      staleTime: 5_000,
    },
  },
});
