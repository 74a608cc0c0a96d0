import { useQuery } from '@tanstack/react-query';
import { counted } from '@vaquero/core';
import { NavLink, useLocation, useNavigate } from 'react-router';
import { lanesOf } from '../lanes/lanes-of.ts';
import { Glyph } from '../parts/glyph.tsx';

import { useKeys } from './use-keys.ts';

/** The pages of a project, each with the key that opens it. */
export const pages = [
  { letter: 'L', word: 'anes', to: '' },
  { letter: 'B', word: 'uilds', to: '/builds' },
  { letter: 'P', word: 'ull requests', to: '/pull-requests' },
  { letter: 'H', word: 'istory', to: '/history' },
  { letter: 'V', word: 'isits', to: '/visits' },
  { letter: 'M', word: 'ap', to: '/map' },
  { letter: 'S', word: 'ettings', to: '/settings' },
] as const;

/** The index below every page of a project, and how the installation is. */
export function FootIndex({ project }: { readonly project: string }) {
  const navigate = useNavigate();
  const { data } = useQuery(lanesOf(project));
  // One pull request has a short address of its own, beside their list.
  const isOfOne = /\/pr-\d+$/.test(useLocation().pathname);
  useKeys((key) => {
    const page = pages.find((one) => one.letter.toLowerCase() === key);
    if (page !== undefined) void navigate(`/p/${project}${page.to}`);
  });
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
