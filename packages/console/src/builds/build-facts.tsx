import type { BuildReply } from '@vaquero/contracts';
import { counted, isOpen, siblingInWords } from '@vaquero/core';
import { Link } from 'react-router';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Glyph } from '../parts/glyph.tsx';

import { RecipeOfBuild } from '../recipes/recipe-of-build.tsx';
import { useBuildAgain } from './use-build-again.ts';

/** What a build is: where it goes, what it was made with, what it made. */
export function BuildFacts({
  build,
  project,
}: {
  readonly build: BuildReply;
  readonly project: string;
}) {
  const again = useBuildAgain(project, build.number);
  const source = build.recipe?.source;
  return (
    <dl className="mt-3 grid grid-cols-[6rem_1fr] gap-y-0.5 border-t border-rule pt-2 [&>dt]:text-ink-2">
      <dt>goes to</dt>
      <dd>{build.destination}</dd>
      {build.pullRequest === null ? null : (
        <>
          <dt>proposed</dt>
          <dd>
            <Link to={`/p/${project}/${build.pullRequest.name}`}>{build.pullRequest.name}</Link>, to
            be merged into {build.pullRequest.into}
            {build.pullRequest.outsider
              ? '; code of an outsider: no values, no caches, no results of others'
              : ''}
          </dd>
        </>
      )}
      {build.tools === null ? null : (
        <>
          <dt>tools</dt>
          <dd>
            {Object.entries(build.tools)
              .map(([name, version]) => `${name} ${version}`)
              .join(', ')}
          </dd>
        </>
      )}
      <dt>recipe</dt>
      <dd>
        {build.recipeName === 'site' ? '' : `${build.recipeName}, `}
        {source === undefined
          ? 'none'
          : source.from === 'file'
            ? `read from ${source.file}`
            : source.from === 'accepted'
              ? `accepted, version ${source.version}`
              : 'proposed: nobody has accepted it yet'}
        {source?.from === 'proposed' ? (
          <ul className="text-ink-2">
            {source.because.map((one) => (
              <li key={one}>{one}</li>
            ))}
            {source.warnings.map((one) => (
              <li key={one} className="text-warn">
                <Glyph name="warned" /> {one}
              </li>
            ))}
          </ul>
        ) : null}
        {build.recipe === null ? null : <RecipeOfBuild recipe={build.recipe} />}
      </dd>
      {build.siblings.length === 0 ? null : (
        <>
          <dt>beside it</dt>
          <dd>
            {build.siblings.map((other) => (
              <Link
                key={other.number}
                to={`/p/${project}/builds/${other.number}`}
                className="mr-3 whitespace-nowrap"
              >
                <Glyph name={other.state} /> {siblingInWords(other)} {other.number}, {other.state}
              </Link>
            ))}
          </dd>
        </>
      )}
      {build.artifact === null ? null : (
        <>
          <dt>artifact</dt>
          <dd>
            <BrandMark digest={build.artifact.digest} size={14} className="align-[-2px]" />{' '}
            <code>{build.artifact.digest.slice(0, 12)}</code>{' '}
            {counted(build.artifact.files, 'file')}, {Math.ceil(build.artifact.bytes / 1024)} KiB
          </dd>
          <dt>answers at</dt>
          <dd className="[overflow-wrap:anywhere]">
            {build.addresses.toReversed().map((address) => (
              <a key={address} className="block font-mono text-[0.86em]" href={address}>
                {address.replace(/^https?:\/\//, '')}
              </a>
            ))}
          </dd>
        </>
      )}
      {build.attempts > 1 ? (
        <>
          <dt>attempts</dt>
          <dd>{build.attempts}: a runner was lost</dd>
        </>
      ) : null}
      <dt />
      <dd className="mt-1.5">
        <Button disabled={isOpen(build.state) || again.isPending} onClick={() => again.mutate({})}>
          Build again
        </Button>{' '}
        {isOpen(build.state) ? <span className="text-ink-2">once this one has ended</span> : null}
        {again.isError ? <Failed error={again.error} /> : null}
      </dd>
    </dl>
  );
}
