import { useQuery } from '@tanstack/react-query';
import type { ProjectSeen } from '@vaquero/contracts';
import { may } from '@vaquero/core';
import { Link } from 'react-router';
import { FindBox } from '../builds/find-box.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { useNow } from '../parts/use-now.ts';
import { clockWithSeconds, day } from '../parts/words.ts';
import { mine } from '../people/mine.ts';
import { useFavourites } from '../projects/favourites.ts';
import { projectsSeen } from '../projects/projects-seen.ts';

/** The line above every page: the projects, what is looked for, the clock, and who one is. */
export function TopLine({ project }: { readonly project: string | null }) {
  const { data: projects = [] } = useQuery(projectsSeen);
  const { data: me } = useQuery(mine);
  const favourites = useFavourites();
  return (
    <header className="flex min-h-10 flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-1">
      <Link
        to="/"
        className="flex items-center gap-2 font-[650] text-ink no-underline"
        aria-label="Vaquero, all projects"
      >
        <svg width="22" height="22" viewBox="0 0 24 24" aria-hidden="true">
          <path d="M4 3l8 11 8-11" fill="none" stroke="var(--ink)" strokeWidth="3" />
          <path
            d="M4 16q8 7 16 0"
            fill="none"
            stroke="var(--thread)"
            strokeWidth="2"
            strokeDasharray="3.4 2.2"
          />
        </svg>
        <span className="max-sm:sr-only">Vaquero</span>
      </Link>
      <nav
        aria-label="Projects"
        className="flex flex-1 flex-wrap items-baseline gap-x-4 border-l border-rule pl-4 max-sm:border-0 max-sm:pl-0"
      >
        {shown(projects, project, favourites).map((one) =>
          one.name === project ? (
            <span key={one.name} className="font-serif text-section font-[600]">
              {one.name}
            </span>
          ) : (
            <Link
              key={one.name}
              to={`/p/${one.name}`}
              className="text-ink-2 no-underline hover:underline max-sm:hidden"
            >
              {one.lastBuild?.state === 'failed' ? <Glyph name="failed" className="mr-1" /> : null}
              {one.name}
              {one.lastBuild?.state === 'failed' ? <span className="text-bad"> failed</span> : null}
            </Link>
          ),
        )}
        {projects.length > mostShown ? (
          <Link to="/" className="text-ink-2 no-underline hover:underline">
            all {projects.length}
          </Link>
        ) : null}
      </nav>
      {project === null ? null : <FindBox key={project} project={project} />}
      <Clock />
      {may(me?.grants ?? [], 'operate', null) ? (
        <>
          <Link to="/people" className="text-ink-2 max-sm:hidden">
            People
          </Link>
          <Link to="/machines" className="text-ink-2 max-sm:hidden">
            Machines
          </Link>
        </>
      ) : null}
      <Link to="/me" className="text-ink max-sm:hidden">
        {me?.shownAs}
      </Link>
    </header>
  );
}

const mostShown = 6;

/** The project that one is in, then one's favourites, then those whose last build failed, as far as there is room. */
function shown(
  projects: readonly ProjectSeen[],
  own: string | null,
  favourites: ReadonlySet<string>,
): readonly ProjectSeen[] {
  const living = projects.filter(({ name, endedAt }) => endedAt === null || name === own);
  if (living.length <= mostShown) return living;
  const weight = ({ name, lastBuild }: ProjectSeen): number =>
    name === own ? 0 : favourites.has(name) ? 1 : lastBuild?.state === 'failed' ? 2 : 3;
  const kept = new Set(
    [...living].sort((one, other) => weight(one) - weight(other)).slice(0, mostShown),
  );
  return living.filter((one) => kept.has(one));
}

function Clock() {
  const now = useNow(true);
  return (
    <time className="whitespace-nowrap">
      <b className="font-[650]">{clockWithSeconds(now)}</b>{' '}
      <span className="max-sm:hidden">
        {day(now)} {new Date(now).getUTCFullYear()}{' '}
      </span>
      UTC
    </time>
  );
}
