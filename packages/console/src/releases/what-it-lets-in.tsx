import { useQuery } from '@tanstack/react-query';
import { findingsOf } from '@vaquero/contracts';
import { findingCounts } from '@vaquero/core';
import { Link } from 'react-router';
import { buildOf } from '../builds/build-of.ts';
import { Failed } from '../parts/failed.tsx';
import { FindingLine, keyOf } from '../parts/finding-line.tsx';

const mostNamed = 5;

/** What was found against a build, the worst first: read before the press, not after. */
export function WhatItLetsIn({
  project,
  build,
}: {
  readonly project: string;
  readonly build: number;
}) {
  const { data, error } = useQuery(buildOf(project, build));
  if (error !== null) return <Failed error={error} />;
  if (data === undefined) return <>looking</>;
  const findings = findingsOf(data.evidence);
  if (findings.length === 0) return <>nothing was found against it</>;
  return (
    <>
      {findingCounts(findings)}
      <ul>
        {findings.slice(0, mostNamed).map((one) => (
          <li key={keyOf(one)} className="border-t border-rule py-1">
            <FindingLine finding={one} />
          </li>
        ))}
      </ul>
      {findings.length > mostNamed ? (
        <Link to={`/p/${project}/builds/${build}`}>and {findings.length - mostNamed} more</Link>
      ) : null}
    </>
  );
}
