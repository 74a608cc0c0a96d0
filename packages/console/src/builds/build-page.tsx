import { useQuery } from '@tanstack/react-query';
import type { BuildReply } from '@vaquero/contracts';
import { isOpen, nameOfRef } from '@vaquero/core';
import { Link, useParams } from 'react-router';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { AnswerLine, Failed, Frame, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { useNow } from '../parts/use-now.ts';
import { clockWithSeconds, counted, lasting, moment } from '../parts/words.ts';
import { buildOf } from './build-of.ts';
import { BuildStrip } from './build-strip.tsx';
import { EvidencePanes } from './evidence-panes.tsx';
import { LogPane } from './log-pane.tsx';
import { OnePress } from './one-press.tsx';
import { StepChart } from './step-chart.tsx';
import { timeLeft } from './time-left.ts';
import { useBuildAgain } from './use-build-again.ts';

/** One build: is it done; if it failed, why, and what do I do? */
export function BuildPage() {
  const { project = '', number = '0' } = useParams();
  const { data: build, error, refetch } = useQuery(buildOf(project, Number(number)));
  const now = useNow(build !== undefined && isOpen(build.state));
  if (build === undefined) {
    return (
      <Frame project={project}>
        <AnswerLine>Build {number}</AnswerLine>
        {error === null ? (
          <Reading what="the build" />
        ) : (
          <Failed error={error} retry={() => void refetch()} />
        )}
      </Frame>
    );
  }
  return (
    <Frame project={project}>
      <BuildAnswer build={build} now={now} />
      {build.state === 'failed' && build.failure !== null ? (
        <Cause project={project} build={build} />
      ) : null}
      {isOpen(build.state) ? <BuildStrip project={project} build={build} now={now} /> : null}
      <div className="grid gap-6 border-t border-rule pt-3 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <div>
          <StepChart build={build} now={now} />
          <EvidencePanes evidence={build.evidence} />
          <Facts build={build} project={project} />
        </div>
        <LogPane
          project={project}
          build={build.number}
          attempts={build.attempts}
          telling={build.tellingLine?.number ?? null}
          steps={build.steps.map((step) => step.name)}
          fresh={build.explanation?.newLines.map((line) => line.number) ?? []}
          good={build.lastGood?.number ?? null}
          isRunning={isOpen(build.state)}
        />
      </div>
    </Frame>
  );
}

function BuildAnswer({ build, now }: { readonly build: BuildReply; readonly now: number }) {
  const took =
    build.startedAt === null || build.endedAt === null
      ? ''
      : ` after ${lasting(build.endedAt - build.startedAt)}`;
  const below = (
    <>
      <code>{build.commit.id.slice(0, 8)}</code>{' '}
      <span className="said">{build.commit.subject}</span>, {build.commit.author}; {build.cause},{' '}
      {moment(build.queuedAt, now)}
      {took === '' ? '' : `, ended${took}`}.{build.state === 'failed' ? ' Nothing moved.' : ''}
    </>
  );
  if (build.state === 'failed')
    return (
      <AnswerLine below={below}>
        Build {build.number} failed:{' '}
        {build.tellingLine === null
          ? lowerFirst(build.failure?.what ?? '')
          : build.tellingLine.text.replace(/^\s*(?:\w*Error|error|fatal): /, '')}
      </AnswerLine>
    );
  if (build.state === 'passed')
    return (
      <AnswerLine below={below}>
        Build {build.number} passed
        {build.artifact === null ? (
          ', and makes evidence only'
        ) : (
          <>
            {' '}
            <BrandMark digest={build.artifact.digest} size={20} className="align-[-3px]" /> and{' '}
            {build.live.length === 0 ? 'is live nowhere' : `is live in ${build.live.join(' and ')}`}
          </>
        )}
        {build.marks.includes('flaky') ? ', though a step had to be tried again' : ''}
        {build.marks.includes('warned') ? ', with a warning' : ''}.
      </AnswerLine>
    );
  if (build.state === 'reused')
    return (
      <AnswerLine below={below}>
        Build {build.number} was not run:{' '}
        {build.artifact === null ? (
          'its inputs are those'
        ) : (
          <>
            <BrandMark digest={build.artifact.digest} size={20} className="align-[-3px]" /> came of
            the same inputs
          </>
        )}{' '}
        {build.artifact === null ? 'of' : 'in'} build {build.reusedFrom}, which passed.
      </AnswerLine>
    );
  if (build.state === 'queued')
    return (
      <AnswerLine below={below}>
        Build {build.number} waits for a runner, {placeInWords(build.place)}.
      </AnswerLine>
    );
  return (
    <AnswerLine below={below}>
      Build {build.number} is {build.state}
      {build.overtakenBy === null
        ? ''
        : `: build ${build.overtakenBy} of a newer commit took its place`}
      {passedOf(build, now)}.
    </AnswerLine>
  );
}

/** How far a running build is. */
function passedOf(build: BuildReply, now: number): string {
  const left = timeLeft(build, now);
  if (left === null || build.startedAt === null || !isOpen(build.state)) return '';
  const passed = Math.max(0, now - build.startedAt);
  return `, ${lasting(passed)} of about ${lasting(passed + Math.max(0, left))}`;
}

function placeInWords(place: BuildReply['place']): string {
  if (place === null) return 'and is about to begin';
  if (place.lacks.length > 0)
    return `one labelled ${place.lacks.join(', ')}, and none takes builds now`;
  const where = place.ahead === 0 ? 'next in the queue' : `${place.ahead} ahead`;
  return place.startsAt === null
    ? where
    : `${where}, and begins about ${clockWithSeconds(place.startsAt)}`;
}

/** What failed, the line that tells it, what changed, and what to do: before everything else. */
function Cause({ project, build }: { readonly project: string; readonly build: BuildReply }) {
  const { failure, tellingLine, lastGood, explanation } = build;
  const failed = build.steps.filter((one) => one.state === 'failed').map((one) => one.name);
  const step = build.reason?.reason === 'step' ? build.reason.step : failed[0];
  const others = failed.filter((name) => name !== step);
  return (
    <section
      aria-label="Why it failed"
      className="mb-3 grid border-t-2 border-bad py-2 md:grid-cols-[10rem_minmax(0,1.4fr)_minmax(0,1.2fr)_minmax(0,1fr)] [&>div]:border-rule [&>div]:px-3.5 md:[&>div+div]:border-l md:[&>div:first-child]:pl-0"
    >
      <div>
        <h2 className="text-ink-2">What failed</h2>
        <p className="text-place font-[650]">
          <Glyph name="failed" /> {step ?? 'before any step'}
        </p>
        <p>{failure?.what}</p>
        {others.length === 0 ? null : <p>{others.join(' and ')} failed too.</p>}
        {explanation?.cause == null ? null : (
          <p className="text-ink-2">likely cause: {explanation.cause}</p>
        )}
      </div>
      <div>
        <h2 className="text-ink-2">
          {tellingLine === null ? 'Why' : `First telling line, ${tellingLine.number}`}
        </h2>
        {tellingLine === null ? (
          <p>{failure?.why}</p>
        ) : (
          <a
            href={`#line-${tellingLine.number}`}
            className="mt-0.5 block border-l-4 border-bad bg-bad-wash px-2 py-1 font-mono text-small text-ink no-underline [overflow-wrap:anywhere]"
          >
            {tellingLine.text}
          </a>
        )}
      </div>
      <div>
        <h2 className="text-ink-2">
          {lastGood === null
            ? 'No good build before this one'
            : `Changed since build ${lastGood.number}, which passed: ${counted(lastGood.commits.length, 'commit')}, ${counted(lastGood.changed.length, 'file')}`}
        </h2>
        {lastGood === null || lastGood.commits.length < 2 ? null : (
          <ul>
            {lastGood.commits.slice(0, 3).map((one) => (
              <li key={one.id} className="truncate">
                <code>{one.id.slice(0, 8)}</code> <span className="said">{one.subject}</span>,{' '}
                {one.author}
              </li>
            ))}
          </ul>
        )}
        <ul>
          {lastGood?.changed.slice(0, 5).map((file) => (
            <li key={file.path} className="flex justify-between gap-2">
              <code className="truncate" title={file.path}>
                {file.path}
              </code>
              <span className="whitespace-nowrap text-ink-2">
                +{file.added ?? '?'} −{file.removed ?? '?'}
              </span>
            </li>
          ))}
          {lastGood?.packages.slice(0, 5).map((one) => (
            <li key={one.name} className="flex justify-between gap-2">
              <span className="truncate">
                package <code>{one.name}</code>
              </span>
              <span className="whitespace-nowrap text-ink-2">
                {one.before ?? 'not there'}, now {one.now ?? 'gone'}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h2 className="text-ink-2">What to do next</h2>
        <p>{explanation?.next ?? failure?.next}</p>
        <OnePress project={project} build={build} />
        {explanation?.elsewhere.map((other) => (
          <p key={other.build} className="text-ink-2">
            Build {other.build} of {nameOfRef(other.ref)} fails in the same step: it may not be this
            commit’s fault.
          </p>
        ))}
        {explanation?.tools.map((tool) => (
          <p key={tool.name} className="text-ink-2">
            {tool.name} was {tool.before}, is {tool.now}
          </p>
        ))}
      </div>
    </section>
  );
}

function Facts({ build, project }: { readonly build: BuildReply; readonly project: string }) {
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
      </dd>
      {build.siblings.length === 0 ? null : (
        <>
          <dt>beside it</dt>
          <dd>
            {build.siblings.map((other) => (
              <Link
                key={other.recipe}
                to={`/p/${project}/builds/${other.number}`}
                className="mr-3 whitespace-nowrap"
              >
                <Glyph name={other.state} /> {other.recipe} {other.number}, {other.state}
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

/** A sentence goes on after a colon, except where it begins with a name in quotes. */
function lowerFirst(text: string): string {
  return /^[A-Z][a-z]/.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text;
}
