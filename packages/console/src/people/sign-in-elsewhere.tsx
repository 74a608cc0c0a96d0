import { useMutation, useQuery } from '@tanstack/react-query';
import { elsewhereRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { elsewhere, keepPlace } from './elsewhere.ts';

/** The way to sign in elsewhere, where there is one. */
export function SignInElsewhere({ then }: { readonly then: string }) {
  const { data } = useQuery(elsewhere);
  const go = useMutation({
    mutationFn: () => api.call(elsewhereRoutes.beginElsewhereRoute),
    onSuccess: ({ address }) => {
      keepPlace(then);
      window.location.assign(address);
    },
  });
  if (data?.called == null) return null;
  return (
    <div className="mt-4 flex flex-col gap-3 border-t border-rule-2 pt-3">
      <Button disabled={go.isPending} onClick={() => go.mutate()}>
        Sign in by {data.called}
      </Button>
      {go.isError ? <Failed error={go.error} /> : null}
    </div>
  );
}
