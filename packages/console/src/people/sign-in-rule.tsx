import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { secondFactorRoutes } from '@vaquero/contracts';
import { type Role, roles } from '@vaquero/core';
import { api, queries } from '../http/api.ts';
import { Failed } from '../parts/failed.tsx';
import { Choice } from '../parts/field.tsx';

const rule = queryOptions({
  queryKey: ['sign-in-rule'],
  queryFn: ({ signal }) => api.call(secondFactorRoutes.showSignInRuleRoute, { signal }),
});

/** From which role on a second factor is demanded. */
export function SignInRule() {
  const { data, error } = useQuery(rule);
  const set = useMutation({
    mutationFn: (factorFrom: Role | null) =>
      api.call(secondFactorRoutes.setSignInRuleRoute, { body: { factorFrom } }),
    onSettled: () => queries.invalidateQueries(rule),
  });
  return (
    <section aria-label="Sign-in" className="mt-6 max-w-xl">
      <h2 className="pb-1 font-[650]">Sign-in</h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <Choice
          label="A second factor is demanded of"
          value={data.factorFrom ?? ''}
          disabled={set.isPending}
          choices={[
            ['', 'nobody'],
            ...roles.map(
              (role) =>
                [
                  role,
                  role === 'operator' ? 'operators' : `${role}s and whoever stands above`,
                ] as const,
            ),
          ]}
          onChange={(event) =>
            set.mutate(roles.find((role) => role === event.currentTarget.value) ?? null)
          }
        />
      )}
      <p role="status" className="mt-1 text-ink-2">
        {set.isSuccess && set.data.sessionsEnded > 0
          ? `Browsers signed out, as their people have none: ${set.data.sessionsEnded}.`
          : 'Who must have one and has none is signed out, and sets one up at the next sign-in. Tokens stay.'}
      </p>
      {set.isError ? <Failed error={set.error} /> : null}
    </section>
  );
}
