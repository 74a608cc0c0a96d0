import { useMutation, useQuery } from '@tanstack/react-query';
import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';
import { lanesOf } from '../lanes/lanes-of.ts';
import { Failed } from '../parts/failed.tsx';
import { Tick } from '../parts/field.tsx';
import { useMay } from '../people/use-may.ts';

/** What a newer commit does to an older build, for each environment that follows refs. */
export function OvertakenSetting({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const { data } = useQuery(lanesOf(project));
  const change = useMutation({
    mutationFn: ({ environment, stops }: { environment: string; stops: boolean }) =>
      api.call(environmentRoutes.setOvertakenRoute, {
        params: { project, environment },
        body: { overtaken: stops ? 'stop' : 'finish' },
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project] }),
  });
  if (data === undefined) return null;
  return (
    <section aria-label="Overtaken builds" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Overtaken builds</b>{' '}
        <span className="text-ink-2">
          what a newer commit does to the build of an older one{may ? '' : `. ${why}`}
        </span>
      </h2>
      {data.environments.map((one) => (
        <Tick
          key={one.name}
          className="border-t border-rule py-1"
          checked={one.overtaken === 'stop'}
          disabled={!may || change.isPending || one.acceptsFrom !== null}
          onChange={(event) =>
            change.mutate({ environment: one.name, stops: event.currentTarget.checked })
          }
          label={
            <>
              <b className="font-[650]">{one.name}</b>
              <span className="text-ink-2">{inWords(one)}</span>
            </>
          }
        />
      ))}
      {change.isError ? <Failed error={change.error} /> : null}
    </section>
  );
}

function inWords({ acceptsFrom, overtaken }: EnvironmentSeen): string {
  if (acceptsFrom !== null) return 'builds nothing of its own, so nothing is ever ended for it';
  return overtaken === 'stop'
    ? 'ends the older build'
    : 'lets the older build finish; checked, a newer commit ends it';
}
