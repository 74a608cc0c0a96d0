import { useQuery } from '@tanstack/react-query';
import type { PreviewSeen } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useState } from 'react';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { TextField } from '../parts/field.tsx';
import { Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { mine } from '../people/mine.ts';
import { PullRequestTabs } from '../refs/pull-request-tabs.tsx';
import { EndSeveral } from './end-several.tsx';
import { EndedPreviews } from './ended-previews.tsx';
import { previewColumns } from './preview-columns.tsx';
import { previewsOf } from './previews-of.ts';

/** Previews: whose are they, which ones end soon, and which are wanted no more? */
export function PreviewsPage() {
  const { project = '' } = useParams();
  const asked = useQuery(previewsOf(project));
  return (
    <Page project={project} title="Previews" what="the previews" asked={asked}>
      {({ previews, ended, now }) => (
        <>
          <Previews project={project} previews={previews} now={now} />
          <EndedPreviews project={project} ended={ended} now={now} />
        </>
      )}
    </Page>
  );
}

function Previews({
  project,
  previews,
  now,
}: {
  readonly project: string;
  readonly previews: readonly PreviewSeen[];
  readonly now: number;
}) {
  const { data: me } = useQuery(mine);
  const [sought, seek] = useState('');
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set());
  const shown = previews.filter((one) => isSought(one, sought));
  const picked = shown.filter(({ name }) => chosen.has(name));
  const toggle = (name: string, isChosen: boolean): void =>
    choose(new Set(isChosen ? [...chosen, name] : [...chosen].filter((one) => one !== name)));
  return (
    <>
      <AnswerLine below="Each follows its ref and ends by itself, unless somebody keeps it: pushes, visits and what people do to it put its end off.">
        {answerOf(previews, me?.name, now)}
      </AnswerLine>
      <PullRequestTabs project={project} />
      <div className="my-2 flex flex-wrap items-end gap-3">
        <TextField
          label="Find by owner, name or branch"
          type="search"
          className="w-64 max-w-full"
          value={sought}
          onChange={(event) => seek(event.currentTarget.value)}
        />
        <EndSeveral project={project} chosen={picked} done={() => choose(new Set())} />
      </div>
      <Table
        caption={`Previews of ${project}, those that end first standing first`}
        columns={previewColumns({ project, now, chosen, toggle })}
        rows={shown}
        keyOf={({ name }) => name}
        empty={previews.length === 0 ? 'None lives now.' : 'No preview is called so.'}
        rowClass="max-sm:grid max-sm:grid-cols-[1.75rem_1fr] max-sm:py-1 max-sm:leading-5"
      />
    </>
  );
}

function isSought({ name, family: { owner, of } }: PreviewSeen, sought: string): boolean {
  const text = [name, of, owner?.name ?? '', owner?.shownAs ?? ''].join(' ').toLowerCase();
  return text.includes(sought.trim().toLowerCase());
}

function answerOf(previews: readonly PreviewSeen[], me: string | undefined, now: number): string {
  const soon = previews.filter(({ family }) => family.endsSoon && family.owner?.name === me);
  const [first] = soon;
  if (first?.family.endsAt != null)
    return `${first.name}, which is yours, ends ${moment(first.family.endsAt, now)}, as nobody touches it.`;
  const kept = previews.filter(({ family }) => family.kept !== null).length;
  const live = `${counted(previews.length, 'preview')} ${previews.length === 1 ? 'lives' : 'live'}`;
  return previews.length === 0
    ? 'No preview lives now.'
    : `${live}; ${kept === 0 ? 'nobody keeps one' : `${kept} ${kept === 1 ? 'is' : 'are'} kept`}.`;
}
