import { queryOptions, useQuery } from '@tanstack/react-query';
import { evidenceRoutes, type InspectionReply } from '@vaquero/contracts';
import { Link } from 'react-router';
import { api } from '../http/api.ts';
import { Glyph } from '../parts/glyph.tsx';

const inspectionOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'inspection'],
    queryFn: ({ signal }) =>
      api.call(evidenceRoutes.showInspectionRoute, { params: { project }, signal }),
  });

const glyphs = { error: 'failed', warning: 'warned', note: 'skipped' } as const;

/** What every artifact is looked at for, and for which environments it stops a build: the map says that. */
export function InspectionSetting({ project }: { readonly project: string }) {
  const { data } = useQuery(inspectionOf(project));
  if (data === undefined) return null;
  return (
    <section aria-label="Inspection" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Inspection</b>{' '}
        <span className="text-ink-2">
          what every artifact is looked at for. What stops a build keeps it from being served
          anywhere; <code>stops</code> in{' '}
          <Link to={`/p/${project}/map`} className="text-thread underline">
            the map
          </Link>{' '}
          says it for each environment.
        </span>
      </h2>
      <ul className="lg:columns-2">
        {data.rules.map((one) => (
          <li key={one.rule} className="flex break-inside-avoid gap-2 border-t border-rule py-1">
            <Glyph name={glyphs[one.severity]} />
            <span>
              <b className="font-[650]">{one.rule}</b>{' '}
              <span className="text-ink-2">
                {one.severity}
                {stopping(one)}. {one.cure}
              </span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function stopping({ stops }: InspectionReply['rules'][number]): string {
  return stops.length === 0 ? '' : `, stops builds for ${stops.join(' and ')}`;
}
