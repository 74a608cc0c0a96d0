import { useQuery } from '@tanstack/react-query';
import type { BuildReply } from '@vaquero/contracts';
import { authorInWords, isOpen } from '@vaquero/core';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark } from '../parts/brand-mark.tsx';
import { useNow } from '../parts/use-now.ts';
import { clockWithSeconds, lasting, moment } from '../parts/words.ts';
import { BuildFacts } from './build-facts.tsx';
import { buildOf } from './build-of.ts';
import { BuildStrip } from './build-strip.tsx';
import { CauseOfFailure } from './cause-of-failure.tsx';
import { EvidencePanes } from './evidence-panes.tsx';
import { LogPane } from './log-pane.tsx';
import { StepChart } from './step-chart.tsx';
import { timeLeft } from './time-left.ts';

/** One build: is it done; if it failed, why, and what do I do? */
export function BuildPage() {
  const { project = '', number = '0' } = useParams();
  const asked = useQuery(buildOf(project, Number(number)));
  const now = useNow(asked.data !== undefined && isOpen(asked.data.state));
  return (
    <Page project={project} title={`Build ${number}`} what="the build" asked={asked}>
      {(build) => (
        <>
          <BuildAnswer build={build} now={now} />
          {build.state === 'failed' && build.failure !== null ? (
            <CauseOfFailure project={project} build={build} />
          ) : null}
          {isOpen(build.state) ? <BuildStrip project={project} build={build} now={now} /> : null}
          <div className="grid gap-6 border-t border-rule pt-3 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
            <div>
              <StepChart build={build} now={now} />
              <EvidencePanes evidence={build.evidence} />
              <BuildFacts build={build} project={project} />
            </div>
            <LogPane
              project={project}
              build={build.number}
              attempts={build.attempts}
              telling={build.tellingLine?.number ?? null}
              steps={build.steps.filter(({ logFrom }) => logFrom !== null).map(({ name }) => name)}
              fresh={build.explanation?.newLines.map((line) => line.number) ?? []}
              good={build.lastGood?.number ?? null}
              isRunning={isOpen(build.state)}
            />
          </div>
        </>
      )}
    </Page>
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
      <span className="said">{build.commit.subject}</span>, {authorInWords(build.commit)};{' '}
      {build.cause}, {moment(build.queuedAt, now)}
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

/** A sentence goes on after a colon, except where it begins with a name in quotes. */
function lowerFirst(text: string): string {
  return /^[A-Z][a-z]/.test(text) ? text.charAt(0).toLowerCase() + text.slice(1) : text;
}
