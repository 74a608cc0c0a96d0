import { queryOptions, useQuery } from '@tanstack/react-query';
import { environmentRoutes, projectRoutes } from '@vaquero/contracts';
import { type ReactNode, useEffect, useState } from 'react';
import { Link, NavLink, useLocation, useNavigate } from 'react-router';
import { FindBox } from '../builds/find-box.tsx';
import { api, troubleOf } from '../http/api.ts';
import { mine } from '../people/mine.ts';
import { Glyph } from './glyph.tsx';
import { useNow } from './use-now.ts';
import { clockWithSeconds, counted, day } from './words.ts';

export const projectsSeen = queryOptions({
  queryKey: ['projects'],
  queryFn: ({ signal }) => api.call(projectRoutes.listProjectsRoute, { signal }),
  select: ({ projects }) => projects,
});
export const lanesOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'lanes'],
    queryFn: ({ signal }) =>
      api.call(environmentRoutes.lanesRoute, { params: { project }, query: { days: 7 }, signal }),
  });

/** The frame of every page of a project: top line, answer, foot index. */
export function Frame({
  project,
  children,
}: {
  readonly project: string | null;
  readonly children: ReactNode;
}) {
  return (
    <>
      <TopLine project={project} />
      <main className="flex flex-1 flex-col px-4 pb-6">{children}</main>
      {project === null ? null : <FootIndex project={project} />}
    </>
  );
}

function TopLine({ project }: { readonly project: string | null }) {
  const { data: projects = [] } = useQuery(projectsSeen);
  const { data: me } = useQuery(mine);
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
        {projects.map((one) =>
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
      </nav>
      {project === null ? null : <FindBox key={project} project={project} />}
      <Clock />
      <span className="max-sm:hidden">{me?.shownAs}</span>
    </header>
  );
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

const pages = [
  { letter: 'L', word: 'anes', to: '' },
  { letter: 'B', word: 'uilds', to: '/builds' },
  { letter: 'P', word: 'ull requests', to: '/pull-requests' },
  { letter: 'H', word: 'istory', to: '/history' },
  { letter: 'V', word: 'isits', to: '/visits' },
  { letter: 'S', word: 'ettings', to: '/settings' },
] as const;

function FootIndex({ project }: { readonly project: string }) {
  const navigate = useNavigate();
  const { data } = useQuery(lanesOf(project));
  // One pull request has a short address of its own, beside their list.
  const isOfOne = /\/pr-\d+$/.test(useLocation().pathname);
  useEffect(() => {
    const go = (event: KeyboardEvent): void => {
      const inField =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [role=dialog]') !== null;
      const page = pages.find((one) => one.letter.toLowerCase() === event.key);
      if (page !== undefined && !inField && !event.ctrlKey && !event.metaKey && !event.altKey)
        void navigate(`/p/${project}${page.to}`);
    };
    window.addEventListener('keydown', go);
    return () => window.removeEventListener('keydown', go);
  }, [navigate, project]);
  return (
    <footer className="sticky bottom-0 z-5 flex items-stretch border-t border-rule-2 bg-well px-1">
      <nav aria-label="Pages" className="flex">
        {pages.map(({ letter, word, to }) => (
          <NavLink
            key={letter}
            end={to === ''}
            to={`/p/${project}${to}`}
            className={({ isActive }) =>
              `flex min-h-8 items-center px-3 max-sm:px-2 text-ink no-underline pointer-coarse:min-h-11 ${isActive || (letter === 'P' && isOfOne) ? 'border-x border-rule-2 bg-paper font-[650]' : ''}`
            }
          >
            <span>
              <u className="underline-offset-2">{letter}</u>
              {word}
            </span>
          </NavLink>
        ))}
      </nav>
      {data === undefined ? null : (
        <p className="ml-auto flex items-center gap-1.5 px-3 text-ink-2 max-sm:hidden">
          <Glyph name={data.edges.running > 0 ? 'passed' : 'stale'} />
          ledger {data.position.toLocaleString('en')} entries · {data.edges.running} of{' '}
          {counted(data.edges.names.length, 'edge')} running
        </p>
      )}
    </footer>
  );
}

/** The sentence a page opens with, and the line below it. */
export function AnswerLine({
  children,
  below,
}: {
  readonly children: ReactNode;
  readonly below?: ReactNode;
}) {
  return (
    <div className="pb-3 pt-3">
      <h1 className="font-serif text-answer font-[560] max-sm:text-[1.1875rem] max-sm:leading-6">
        {children}
      </h1>
      {below === undefined ? null : <p className="mt-1 text-ink-2">{below}</p>}
    </div>
  );
}

/** What a page says while it waits: nothing for 300 ms, then what it does and since when. */
export function Reading({ what }: { readonly what: string }) {
  const [seconds, setSeconds] = useState(-1);
  useEffect(() => {
    const begun = Date.now();
    const timer = setInterval(() => setSeconds(Math.floor((Date.now() - begun) / 1000)), 300);
    return () => clearInterval(timer);
  }, []);
  return seconds < 0 ? null : (
    <p role="status" className="border-t border-rule pt-2 text-ink-2">
      reading {what}, {seconds} s
    </p>
  );
}

/** A failed load: what happened, and what still works. */
export function Failed({ error, retry }: { readonly error: unknown; readonly retry?: () => void }) {
  const { what, next } = troubleOf(error);
  return (
    <p role="alert" className="my-2 border-l-4 border-bad bg-bad-wash px-3 py-2">
      <b className="font-[650]">{what}</b> {next}{' '}
      {retry === undefined ? null : (
        <button type="button" className="text-action underline" onClick={retry}>
          Try now
        </button>
      )}
    </p>
  );
}
