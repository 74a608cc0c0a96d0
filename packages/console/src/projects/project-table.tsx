import type { EnvironmentSeen, ProjectSeen } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Link } from 'react-router';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Tick } from '../parts/field.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';

/** A project with what is live in it. */
export interface ProjectLive {
  readonly name: string;
  readonly environments: readonly EnvironmentSeen[];
  /** What else is known of it, once it is. */
  readonly project: ProjectSeen | undefined;
}

/** Projects: what their environments serve, what waits below their top, and whether one wants them first. */
export function ProjectTable({
  caption,
  projects,
  now,
  favourites,
  onFavourite,
}: {
  readonly caption: string;
  readonly projects: readonly ProjectLive[];
  readonly now: number;
  readonly favourites: ReadonlySet<string>;
  readonly onFavourite: (project: string, is: boolean) => void;
}) {
  return (
    <Table
      caption={caption}
      columns={[
        ...columnsFor(now),
        {
          head: 'favourite',
          isFigure: true,
          className: 'max-sm:text-left',
          cell: ({ name }) => (
            <Tick
              label={<span className="sm:sr-only">favourite</span>}
              id={favouriteId(name)}
              aria-label={`${name} is a favourite`}
              className="h-[25px] min-h-0 items-center justify-end max-sm:justify-start"
              checked={favourites.has(name)}
              onChange={({ currentTarget: { checked } }) => onFavourite(name, checked)}
            />
          ),
        },
      ]}
      rows={projects}
      keyOf={({ name }) => name}
      empty="No project is called so."
      rowClass="max-sm:grid max-sm:py-2"
    />
  );
}

/** The tick of a project: after a press it stands in another table, and the focus goes along. */
export function favouriteId(project: string): string {
  return `favourite-${project}`;
}

function columnsFor(now: number): readonly Column<ProjectLive>[] {
  return [
    {
      head: 'project',
      isName: true,
      cell: ({ name }) => <Link to={`/p/${name}`}>{name}</Link>,
    },
    {
      head: 'serves',
      cell: ({ environments }) => (
        <span className="flex flex-wrap gap-x-5">
          {environments
            .filter(({ family }) => family === null)
            .map((one) => (
              <Serving key={one.name} one={one} />
            ))}
        </span>
      ),
    },
    {
      head: 'previews',
      className: 'whitespace-nowrap',
      cell: ({ environments }) => {
        const { length } = environments.filter(({ family }) => family !== null);
        return length === 0 ? (
          <span className="text-ink-2">no preview</span>
        ) : (
          counted(length, 'preview')
        );
      },
    },
    { head: 'below the top', cell: ({ environments }) => belowTop(environments, now) },
    {
      head: 'repository',
      from: 'lg',
      className: 'text-ink-2',
      cell: ({ project }) => (project === undefined ? '' : inOneLine(project)),
    },
  ];
}

function Serving({ one }: { readonly one: EnvironmentSeen }) {
  const { name, serves } = one;
  return (
    <span className="whitespace-nowrap">
      <span className="text-ink-2">{name}</span>{' '}
      {serves === null ? (
        <>
          <Unbranded size={14} /> none yet
        </>
      ) : (
        <>
          <BrandMark digest={serves.artifact} size={14} className="align-[-2px]" />{' '}
          <b className="font-[650]">{serves.build}</b>
        </>
      )}
    </span>
  );
}

/** What could come to the top, or that nothing could. */
function belowTop([top]: readonly EnvironmentSeen[], now: number): string {
  if (top === undefined) return '';
  const { waits, serves } = top;
  if (waits.kind === 'artifact')
    return `${waits.commitsAhead === null ? 'the first' : counted(waits.commitsAhead, 'commit')} ${waits.commitsAhead === null || waits.commitsAhead === 1 ? 'waits' : 'wait'}, since ${moment(waits.since, now)}`;
  if (waits.kind === 'offer')
    return `build ${waits.build} waits, since ${moment(waits.since, now)}`;
  if (waits.kind === 'build') return `build ${waits.build} is ${waits.state}`;
  if (top.acceptsFrom !== null && serves !== null)
    return `${waits.why}, since ${moment(serves.committedAt, now)}`;
  return serves === null ? waits.why : `since ${moment(serves.committedAt, now)}`;
}

function inOneLine({ name, branch, folder, repository }: ProjectSeen): string {
  const where = folder === '' ? '' : `, folder ${folder}`;
  const of = repository.home === name ? '' : `, that of ${repository.home}`;
  return `${branch}${where}${of}`;
}
