import { queryOptions } from '@tanstack/react-query';
import { elsewhereRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Where people may sign in instead. */
export const elsewhere = queryOptions({
  queryKey: ['elsewhere'],
  queryFn: ({ signal }) => api.call(elsewhereRoutes.showElsewhereRoute, { signal }),
  staleTime: Number.POSITIVE_INFINITY,
});

const placeKey = 'vaquero-then';

/** Keeps where somebody was going, or was, while they are away. */
export function keepPlace(then: string): void {
  sessionStorage.setItem(placeKey, then);
}

/** Where they were going; once. */
export function takePlace(): string | null {
  const then = sessionStorage.getItem(placeKey);
  sessionStorage.removeItem(placeKey);
  return then;
}
