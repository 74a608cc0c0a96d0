import { useQuery } from '@tanstack/react-query';
import type { LaneReply, ProjectSeen } from '@vaquero/contracts';
import { counted, type Instant } from '@vaquero/core';
import { type ReactNode, useState } from 'react';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { capital, moment } from '../parts/words.ts';
import { FirstSteps } from '../projects/first-steps.tsx';
import { projectsSeen } from '../projects/projects-seen.ts';
import { LaneChart } from './lane-chart.tsx';
import { LaneTable } from './lane-table.tsx';
import { lanesOf } from './lanes-of.ts';
import { MomentTable } from './moment-table.tsx';
import { usePinned } from './pinned-instant.ts';
import { PreviewTable } from './preview-table.tsx';
import { daysFor, useShown } from './shown.ts';
import { WindowControls } from './window-controls.tsx';

/** Lanes: what is live where, and what may come in now? */
export function LanesPage() {
  const { project = '' } = useParams();
  // The lanes end at the present, which nobody has to be told of.
  const [pinned] = usePinned();
  const days = daysFor(useShown(pinned));
  const asked = useQuery({
    ...lanesOf(project, days),
    refetchInterval: 60_000,
    // While another stretch is read the one before stays in sight; never the lanes of another project.
    placeholderData: (before, query) => (query?.queryKey[0] === project ? before : undefined),
  });
  return (
    <Page project={project} title={project} what="the ledger" asked={asked}>
      {(lanes) => <Lanes project={project} lanes={lanes} />}
    </Page>
  );
}

function Lanes({ project, lanes: all }: { readonly project: string; readonly lanes: LaneReply }) {
  const previews = all.environments.filter(({ family }) => family !== null);
  const lanes = { ...all, environments: all.environments.filter(({ family }) => family === null) };
  const { data: projects } = useQuery(projectsSeen);
  const [cursor, setCursor] = useState<Instant | null>(null);
  const [pinned, pin] = usePinned();
  const [asTable, setAsTable] = useState(false);
  const showing = useShown(pinned);
  const seen = projects?.find((one) => one.name === project);
  const isEmpty =
    lanes.environments.every((lane) => lane.serves === null) && seen?.lastBuild === null;
  if (seen !== undefined && seen.endedAt !== null)
    return <AnswerLine>Nothing of {project} is live any more.</AnswerLine>;
  return (
    <>
      <LanesAnswer lanes={lanes} project={seen} />
      {asTable ? (
        <LaneTable lanes={lanes} />
      ) : (
        <LaneChart
          lanes={lanes}
          project={project}
          cursor={cursor ?? pinned}
          onCursor={setCursor}
          pinned={pinned}
          onPin={pin}
          showing={showing}
        />
      )}
      <Legend asTable={asTable} turn={() => setAsTable(!asTable)}>
        {asTable ? null : <WindowControls showing={showing} around={cursor ?? pinned} />}
      </Legend>
      <PreviewTable project={project} previews={previews} now={lanes.now} />
      {isEmpty && seen !== undefined ? (
        <FirstSteps project={seen} />
      ) : (
        <MomentTable
          lanes={lanes}
          at={cursor ?? pinned}
          isPinned={pinned !== null && cursor === null}
          letGo={() => pin(null)}
          project={project}
        />
      )}
    </>
  );
}

/** What the marks of the lanes mean, and the way to the same as a table. */
function Legend({
  asTable,
  turn,
  children,
}: {
  readonly asTable: boolean;
  readonly turn: () => void;
  readonly children: ReactNode;
}) {
  return (
    <div className="wide-only mb-4 mt-2 flex flex-wrap items-center gap-4 pl-[14.4rem] text-small text-ink-2 max-[1199px]:pl-0">
      {children}
      <span>
        <svg className="inline-block align-middle" width="28" height="6" aria-hidden="true">
          <line className="thread" x1="0" x2="28" y1="3" y2="3" />
        </svg>{' '}
        same bytes moved up
      </span>
      <span>
        <Glyph name="held" /> held
      </span>
      <span>
        <Glyph name="rolled-back" /> rolled back
      </span>
      <span>
        <Glyph name="live" /> live
      </span>
      <button
        type="button"
        className="ml-auto text-action underline underline-offset-2"
        aria-pressed={asTable}
        onClick={turn}
      >
        {asTable ? 'The same as lanes' : 'The same as a table'}
      </button>
    </div>
  );
}

function LanesAnswer({
  lanes,
  project,
}: {
  readonly lanes: LaneReply;
  readonly project: ProjectSeen | undefined;
}) {
  const [top] = lanes.environments;
  const held = lanes.environments.find((lane) => lane.hold !== null);
  const below =
    top?.serves == null
      ? undefined
      : `${capital(top.name)} serves build ${top.serves.build} since ${moment(top.serves.committedAt, lanes.now)}, by ${top.serves.by}.`;
  if (lanes.edges.running === 0)
    return (
      <AnswerLine below="What was live stays recorded; sites answer again once an edge runs.">
        No edge is running: nothing answers.
      </AnswerLine>
    );
  if (held?.hold != null)
    return (
      <AnswerLine below={below}>
        {capital(held.name)} is held since {moment(held.hold.since, lanes.now)}, and serves build{' '}
        {held.serves?.build}{' '}
        {held.serves === null ? null : (
          <BrandMark digest={held.serves.artifact} size={20} className="align-[-3px]" />
        )}
        .
      </AnswerLine>
    );
  const offered = lanes.environments.find(({ waits }) => waits.kind === 'offer');
  if (offered?.waits.kind === 'offer')
    return (
      <AnswerLine below={below}>
        Build {offered.waits.build}{' '}
        <BrandMark digest={offered.waits.artifact} size={20} className="align-[-3px]" /> waits for a
        word to go to {offered.name}.
      </AnswerLine>
    );
  if (top?.waits.kind === 'artifact')
    return (
      <AnswerLine below={below ?? `${capital(top.name)} serves nothing yet.`}>
        Build {top.waits.build}{' '}
        <BrandMark digest={top.waits.artifact} size={20} className="align-[-3px]" /> can go to{' '}
        {top.name}
        {top.waits.commitsAhead === null
          ? ''
          : `, ${counted(top.waits.commitsAhead, 'commit')} ahead of what is live`}
        .
      </AnswerLine>
    );
  if (top?.serves != null)
    return (
      <AnswerLine below={below}>
        {top.acceptsFrom === null
          ? `${capital(top.name)} serves build ${top.serves.build}`
          : `${capital(top.name)} and ${top.acceptsFrom} serve the same bytes: build ${top.serves.build}`}{' '}
        <BrandMark digest={top.serves.artifact} size={20} className="align-[-3px]" />.
      </AnswerLine>
    );
  return (
    <AnswerLine below="The addresses below are yours already.">
      {project?.name} {project?.repository.state ?? 'serves nothing yet'}. Nothing is live until
      then.
    </AnswerLine>
  );
}
