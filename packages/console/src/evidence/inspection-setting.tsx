import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { evidenceRoutes } from '@vaquero/contracts';
import type { InspectionRule } from '@vaquero/core';
import { api, queries } from '../http/api.ts';
import { Failed } from '../parts/failed.tsx';
import { Tick } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { useMay } from '../people/use-may.ts';

const inspectionOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'inspection'],
    queryFn: ({ signal }) =>
      api.call(evidenceRoutes.showInspectionRoute, { params: { project }, signal }),
  });

const glyphs = { error: 'failed', warning: 'warned', note: 'skipped' } as const;

/** What every artifact is looked at for, and which of it stops a build. */
export function InspectionSetting({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const { data } = useQuery(inspectionOf(project));
  const change = useMutation({
    mutationFn: (holding: InspectionRule[]) =>
      api.call(evidenceRoutes.setInspectionRoute, {
        params: { project },
        body: { holding },
        seen: data?.version ?? '',
      }),
    // Also after a refusal: what another person set meanwhile is shown beside the words.
    onSettled: () => queries.invalidateQueries({ queryKey: [project, 'inspection'] }),
  });
  if (data === undefined) return null;
  const holding = data.rules.filter((one) => one.holds).map((one) => one.rule);
  return (
    <section aria-label="Inspection" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Inspection</b>{' '}
        <span className="text-ink-2">
          what every artifact is looked at for; a rule that stops keeps it from being served
          anywhere{may ? '' : `. ${why}`}
        </span>
      </h2>
      <ul className="lg:columns-2">
        {data.rules.map((one) => (
          <li key={one.rule} className="break-inside-avoid border-t border-rule py-1">
            <Tick
              checked={one.holds}
              disabled={!may || change.isPending}
              onChange={(event) =>
                change.mutate(
                  event.currentTarget.checked
                    ? [...holding, one.rule]
                    : holding.filter((rule) => rule !== one.rule),
                )
              }
              label={
                <>
                  <Glyph name={glyphs[one.severity]} />
                  <span>
                    <b className="font-[650]">{one.rule}</b>{' '}
                    <span className="text-ink-2">
                      {one.severity}
                      {one.holds ? ', stops a build' : ''}. {one.cure}
                    </span>
                  </span>
                </>
              }
            />
          </li>
        ))}
      </ul>
      {change.isError ? <Failed error={change.error} /> : null}
    </section>
  );
}
