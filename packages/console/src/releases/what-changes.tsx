import { useQuery } from '@tanstack/react-query';
import type { DeploySeen } from '@vaquero/contracts';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { comparisonInWords } from '../comparisons/comparison-in-words.ts';
import { comparisonOf } from '../comparisons/comparison-of.ts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { WhatItLetsIn } from './what-it-lets-in.tsx';

/** What goes live, as far as it is told before it does. */
type Coming = Pick<DeploySeen, 'build' | 'artifact' | 'subject'>;

/** What a move would change: what comes, what it replaces, and what was found against it. */
export function WhatChanges({
  project,
  comes,
  replaces,
  children,
}: {
  readonly project: string;
  readonly comes: Coming;
  readonly replaces: Coming | null;
  /** More rows, above what was found. */
  readonly children?: ReactNode;
}) {
  return (
    <dl className="grid grid-cols-[5rem_1fr] gap-y-1">
      <dt className="text-ink-2">comes</dt>
      <dd>
        <OneBuild {...comes} />
      </dd>
      <dt className="text-ink-2">replaces</dt>
      <dd>{replaces === null ? 'nothing: this is the first' : <OneBuild {...replaces} />}</dd>
      {replaces === null || replaces.artifact === comes.artifact ? null : (
        <>
          <dt className="text-ink-2">differs</dt>
          <dd>
            <Differs project={project} before={replaces.build} after={comes.build} />
          </dd>
        </>
      )}
      {children}
      <dt className="text-ink-2">lets in</dt>
      <dd>
        <WhatItLetsIn project={project} build={comes.build} />
      </dd>
    </dl>
  );
}

/** How much of what visitors see would be another, and where that stands page by page. */
function Differs({
  project,
  before,
  after,
}: {
  readonly project: string;
  readonly before: number;
  readonly after: number;
}) {
  const { data, isError } = useQuery(comparisonOf(project, before, after));
  return (
    <>
      {data === undefined
        ? isError
          ? 'it cannot be told'
          : 'is being read'
        : comparisonInWords(data)}
      {'; '}
      <Link to={`/p/${project}/compare/${before}/${after}`}>page by page</Link>
    </>
  );
}

function OneBuild({ build, artifact, subject }: Coming) {
  return (
    <>
      <BrandMark digest={artifact} size={18} className="align-[-3px]" />{' '}
      <b className="font-[650]">{build}</b> <code>{artifact.slice(0, 12)}</code>{' '}
      <span className="said">{subject}</span>
    </>
  );
}
