import { useQuery } from '@tanstack/react-query';
import type { LaneReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Link, NavLink } from 'react-router';
import { lanesOf } from '../lanes/lanes-of.ts';

/** One page for each environment of a project, the top first. */
export function EnvironmentTabs({
  project,
  page,
  shown,
}: {
  readonly project: string;
  readonly page: string;
  readonly shown: string;
}) {
  const { data } = useQuery(lanesOf(project));
  const all = data?.environments ?? [];
  const living = all.flatMap(isShown(shown));
  // What has ended is read by its name.
  const names = living.includes(shown) ? living : [shown, ...living];
  const left = all.length - living.length;
  const tabs = names.map((name) => (
    <NavLink
      key={name}
      to={`/p/${project}/${page}/${name}`}
      className={`ml-2 ${name === shown ? 'border-b-2 border-ink font-[650] text-ink no-underline' : ''}`}
    >
      {name}
    </NavLink>
  ));
  return (
    <>
      {tabs}
      {left > 0 ? (
        <Link to={`/p/${project}`} className="ml-2">
          {counted(left, 'preview')}
        </Link>
      ) : null}
    </>
  );
}

/** Standing environments, and the one that is looked at; previews are reached from the lanes, however many live. */
function isShown(shown: string) {
  return ({ name, family }: LaneReply['environments'][number]): readonly string[] =>
    family === null || name === shown ? [name] : [];
}

/** The environment that a page is about: the one in its address, else the top. */
export function useShown(
  project: string,
  named: string | undefined,
): {
  /** Undefined while it is not known. */
  readonly environment: string | undefined;
  /** Why it is not known. */
  readonly fault: Error | null;
} {
  const { data, error } = useQuery({ ...lanesOf(project), enabled: named === undefined });
  return { environment: named ?? data?.environments[0]?.name, fault: error };
}
