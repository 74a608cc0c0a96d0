import { queryOptions } from '@tanstack/react-query';
import { mailRoutes, peopleRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Who is signed in; refused when nobody is. */
export const mine = queryOptions({
  queryKey: ['me'],
  queryFn: ({ signal }) => api.call(peopleRoutes.meRoute, { signal }),
  staleTime: 60_000,
});

/** Where one is signed in. */
export const mySessions = queryOptions({
  queryKey: ['sessions'],
  queryFn: ({ signal }) => api.call(peopleRoutes.listSessionsRoute, { signal }),
});

/** One's mail addresses. */
export const myMail = queryOptions({
  queryKey: ['mail'],
  queryFn: ({ signal }) => api.call(mailRoutes.listMailRoute, { signal }),
});
