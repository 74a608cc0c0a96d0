import { useEffect, useRef } from 'react';
import { useSearchParams } from 'react-router';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { useFavourites, useSetFavourite } from './favourites.ts';
import { favouriteId, type ProjectLive, ProjectTable } from './project-table.tsx';

/** Above so many a page is searched by a word, not by the eye. */
const mostWithoutFind = 12;

/** Every project: those that one wants first, then the others; of many, those that a word finds. */
export function ProjectsListed({
  projects,
  now,
}: {
  readonly projects: readonly ProjectLive[];
  readonly now: number;
}) {
  const favourites = useFavourites();
  const set = useSetFavourite();
  const pressed = useRef<string | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row has moved once they are others
  useEffect(() => {
    if (pressed.current !== null) document.getElementById(favouriteId(pressed.current))?.focus();
    pressed.current = null;
  }, [favourites]);
  const table = {
    now,
    favourites,
    onFavourite: (project: string, is: boolean): void => {
      pressed.current = project;
      set.mutate({ project, is });
    },
  };
  const [asked, setAsked] = useSearchParams();
  const word = asked.get('find') ?? '';
  const found = projects.filter(({ name }) => name.includes(word.trim().toLowerCase()));
  const own = found.filter(({ name }) => favourites.has(name));
  const others = found.filter(({ name }) => !favourites.has(name));
  return (
    <>
      {set.isError ? <Failed error={set.error} /> : null}
      {projects.length <= mostWithoutFind ? null : (
        <div className="mb-4 flex flex-wrap items-end gap-3">
          <TextField
            label="Find a project"
            type="search"
            className="w-64 max-w-full"
            value={word}
            onChange={({ currentTarget: { value } }) =>
              setAsked(value === '' ? {} : { find: value }, { replace: true })
            }
          />
          <p role="status" className="py-1 text-ink-2">
            {word === '' ? '' : `${found.length} of ${projects.length}`}
          </p>
        </div>
      )}
      {own.length === 0 ? null : (
        <section aria-label="Favourites" className="mb-5">
          <h2 className="pb-1 font-[650]">Favourites</h2>
          <ProjectTable caption="Favourites" projects={own} {...table} />
        </section>
      )}
      {own.length > 0 && others.length > 0 ? <h2 className="pb-1 font-[650]">The others</h2> : null}
      {others.length === 0 && own.length > 0 ? null : (
        <ProjectTable
          caption={own.length === 0 ? 'All projects' : 'The others'}
          projects={others}
          {...table}
        />
      )}
    </>
  );
}
