import { useQuery } from '@tanstack/react-query';
import { Fragment, type ReactNode } from 'react';
import { Link } from 'react-router';
import { clock as clockOf, day } from '../parts/words.ts';
import { projectsSeen } from '../projects/projects-seen.ts';
import { FootIndex } from './foot-index.tsx';
import { KeysSheet } from './keys-sheet.tsx';
import { TopLine } from './top-line.tsx';

/** Of a project that has ended: since when, and that nothing of it changes any more. */
function Ended({ project }: { readonly project: string | null }) {
  const { data: projects = [] } = useQuery(projectsSeen);
  const seen = projects.find(({ name }) => name === project);
  const ended = seen?.endedAt ?? null;
  return seen === undefined || ended === null ? null : (
    <p role="status" className="mt-3 border-l-4 border-rule-2 bg-sheet px-2 py-1">
      {project} ended on {day(ended)} {clockOf(ended)} UTC. It can be read, and is not changed any
      more: <Link to={`/p/${project}/builds`}>its builds</Link>
      {seen.addresses.map(({ environment }) => (
        <Fragment key={environment}>
          , <Link to={`/p/${project}/history/${environment}`}>the history of {environment}</Link>
        </Fragment>
      ))}
    </p>
  );
}

/** The frame of every page: top line, what the page says, and, of a project, the index at the foot. */
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
      <main className="flex flex-1 flex-col px-4 pb-6">
        <Ended project={project} />
        {children}
      </main>
      {project === null ? null : (
        <>
          <FootIndex project={project} />
          <KeysSheet />
        </>
      )}
    </>
  );
}
