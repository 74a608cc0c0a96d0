import { useMutation, useQuery } from '@tanstack/react-query';
import { elsewhereRoutes, type Me } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { day } from '../parts/words.ts';
import { elsewhere, keepPlace } from './elsewhere.ts';
import { mine } from './mine.ts';

/** Joining what one signs in as elsewhere, and leaving it. */
export function MyElsewhere({ me }: { readonly me: Me }) {
  const { data } = useQuery(elsewhere);
  const join = useMutation({
    mutationFn: () => api.call(elsewhereRoutes.joinElsewhereRoute),
    onSuccess: ({ address }) => {
      keepPlace('/me');
      window.location.assign(address);
    },
  });
  const leave = useMutation({
    mutationFn: () => api.call(elsewhereRoutes.leaveElsewhereRoute),
    onSettled: () => queries.invalidateQueries(mine),
  });
  if (data?.called == null) return null;
  const since = me.elsewhereSince;
  return (
    <section aria-label={data.called} className="flex max-w-sm flex-col gap-3">
      <h2 className="font-[650]">{data.called}</h2>
      <p className="text-ink-2">
        {since === null
          ? 'You are not joined with anybody there.'
          : `You sign in by it, too, since ${day(since)}; no code of your second factor is asked for then.`}
      </p>
      <span>
        {since === null ? (
          <Button disabled={join.isPending} onClick={() => join.mutate()}>
            Join who you are there
          </Button>
        ) : (
          <Button disabled={leave.isPending} onClick={() => leave.mutate()}>
            Sign in by it no more
          </Button>
        )}
      </span>
      {join.isError ? <Failed error={join.error} /> : null}
      {leave.isError ? <Failed error={leave.error} /> : null}
    </section>
  );
}
