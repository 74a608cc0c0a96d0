import { counted, type Instant } from '@vaquero/core';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { lasting, moment } from '../parts/words.ts';
import type { MayAct } from '../people/use-may.ts';
import { LetIn } from '../releases/let-in-sheet.tsx';
import type { Lane } from './window-of.ts';

interface WhatWaitsProps {
  readonly lane: Lane;
  readonly project: string;
  readonly now: Instant;
  readonly promoting: MayAct;
  readonly open: () => void;
}

/** What waits to come into a lane, with the act that lets it. */
export function WhatWaits({ lane, project, now, promoting, open }: WhatWaitsProps) {
  const { waits } = lane;
  if (waits.kind === 'nothing') return <p className="text-ink-2">{waits.why}</p>;
  if (waits.kind === 'artifact') {
    return (
      <Waiting
        act={
          <Button tone="action" disabled={!promoting.may} data-act="promote" onClick={open}>
            Promote…
          </Button>
        }
        top={
          <>
            <BrandMark digest={waits.artifact} size={22} />{' '}
            <b className="text-name font-[650]">{waits.build}</b>{' '}
            <code className="text-ink-2">{waits.artifact.slice(0, 8)}</code>
          </>
        }
      >
        <p className="said truncate" title={waits.subject}>
          {waits.subject}
        </p>
        <p className="text-small text-ink-2">
          {waits.commitsAhead === null
            ? 'nothing is live here yet'
            : `${counted(waits.commitsAhead, 'commit')} ahead of live`}
          ; in {lane.acceptsFrom} for {lasting(Math.max(0, now - waits.since))}
          {promoting.may ? '' : `. Promoting takes ${promoting.who}.`}
        </p>
      </Waiting>
    );
  }
  if (waits.kind === 'offer')
    return (
      <Waiting
        act={<LetIn lane={lane} project={project} />}
        top={
          <>
            <BrandMark digest={waits.artifact} size={22} />{' '}
            <Link to={`/p/${project}/builds/${waits.build}`} className="text-name font-[650]">
              {waits.build}
            </Link>{' '}
            <code className="text-ink-2">{waits.artifact.slice(0, 8)}</code>
          </>
        }
      >
        <p className="said truncate" title={waits.subject}>
          {waits.subject}
        </p>
        <p className="text-small text-ink-2">
          passed {moment(waits.since, now)}; waits for a word
          {waits.newer === null ? '' : `; build ${waits.newer} is on its way`}
          {promoting.may ? '' : `. Letting it in takes ${promoting.who}.`}
        </p>
      </Waiting>
    );
  return (
    <Waiting
      act={<Link to={`/p/${project}/builds/${waits.build}`}>Follow</Link>}
      top={
        <>
          <Unbranded size={22} /> <b className="text-name font-[650]">{waits.build}</b>
        </>
      }
    >
      <p className="said truncate" title={waits.subject}>
        {waits.subject}
      </p>
      <p className="text-small text-ink-2">
        <Glyph
          name={
            waits.state === 'running' ? 'running' : hasPassed(waits.state) ? 'passed' : 'queued'
          }
        />{' '}
        {buildInWords(lane, waits, now)}
      </p>
    </Waiting>
  );
}

type BuildWaiting = Extract<Lane['waits'], { kind: 'build' }>;

function hasPassed(state: string): boolean {
  return state === 'passed' || state === 'reused' || state === 'awaited';
}

/** How far a build is, and what happens then. */
function buildInWords(lane: Lane, waits: BuildWaiting, now: Instant): string {
  if (waits.state === 'awaited') return `passed; enters once ${lane.acceptsFrom} has served it`;
  const took = waits.startedAt === null ? null : now - waits.startedAt;
  const far = `${waits.state}${took === null ? '' : ` ${lasting(Math.max(0, took))}`}`;
  const of = waits.usualMs === null ? '' : ` of about ${lasting(waits.usualMs)}`;
  return `${far}${of}; ${lane.isOnWord ? 'is offered here then' : 'goes live by itself'}`;
}

/** What stands in the way of a lane, or could come in, with an act beside it. */
export function Waiting({
  top,
  act,
  children,
}: {
  readonly top: ReactNode;
  readonly act: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <>
      <div className="flex min-h-7 items-center justify-between gap-2">
        <span className="flex items-center gap-2">{top}</span>
        {act}
      </div>
      {children}
    </>
  );
}
