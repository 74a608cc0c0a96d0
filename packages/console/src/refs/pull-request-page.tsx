import { useQuery } from '@tanstack/react-query';
import type { BuildRow, PullRequestReply } from '@vaquero/contracts';
import { authorInWords, counted, may, tellingBuild } from '@vaquero/core';
import { useState } from 'react';
import { Link, Navigate, useParams } from 'react-router';
import { Admits } from '../admission/lend-link.tsx';
import { Comparison } from '../comparisons/comparison.tsx';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { lasting, moment } from '../parts/words.ts';
import { mine } from '../people/mine.ts';
import { KeepPreview } from '../previews/keep-preview.tsx';
import { EndPreview } from './end-preview.tsx';
import { Changes, MergeAct } from './pull-request-acts.tsx';
import { pullRequestOf } from './pull-requests-of.ts';
import { waitsForWord } from './pull-requests-page.tsx';
import { Verdicts } from './verdicts.tsx';
import { WordSheet } from './word-sheet.tsx';

/** One pull request, at an address such as /p/timetable/pr-3: what does it bring, and what came of it? */
export function PullRequestPage() {
  const { project = '', name = '' } = useParams();
  const isOne = /^pr-\d+$/.test(name);
  const asked = useQuery({ ...pullRequestOf(project, name), enabled: isOne });
  if (!isOne) return <Navigate to={`/p/${project}`} replace />;
  return (
    <Page project={project} title={name} what="the pull request" asked={asked}>
      {(pull) => (
        <>
          <Answer pull={pull} now={asked.dataUpdatedAt} />
          <div className="grid gap-6 border-t border-rule pt-3 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
            <div>
              <Preview project={project} pull={pull} now={asked.dataUpdatedAt} />
              {pull.compares === null ? null : (
                <Comparison
                  project={project}
                  before={pull.compares.before}
                  after={pull.compares.after}
                  where={`in ${pull.compares.environment}`}
                />
              )}
              <Pushes project={project} pull={pull} now={asked.dataUpdatedAt} />
            </div>
            <div>
              {waitsForWord(pull) ? (
                <Word project={project} pull={pull} />
              ) : (
                <MergeAct project={project} pull={pull} />
              )}
              <Verdicts project={project} pull={pull} now={asked.dataUpdatedAt} />
              <Brings pull={pull} />
              <Changes project={project} pull={pull} />
            </div>
          </div>
        </>
      )}
    </Page>
  );
}

function Answer({ pull, now }: { readonly pull: PullRequestReply; readonly now: number }) {
  const newest = tellingBuild(pull.builds);
  // Of the recipes that a commit is built by one publishes.
  const artifact = pull.builds.find((one) => one.artifact !== null)?.artifact?.digest ?? null;
  const where = pull.from.place === null ? '' : ` of ${pull.from.place}`;
  return (
    <AnswerLine
      below={
        <>
          <span className="said">{pull.title}</span>
          {pull.isDraft ? ', a draft' : ''}: <code>{pull.from.branch}</code>
          <span className="[overflow-wrap:anywhere]">{where}</span> into <code>{pull.into}</code>
          {pull.ahead === null ? '' : `, ${counted(pull.ahead, 'commit')} ahead`}; opened by{' '}
          {pull.openedBy}, {moment(pull.openedAt, now)}.
        </>
      }
    >
      {artifact === null || pull.state !== 'open' ? (
        standsInWords(pull, newest)
      ) : (
        <>
          {pull.name} <BrandMark digest={artifact} size={20} className="align-[-3px]" />{' '}
          {standsInWords(pull, newest).slice(pull.name.length + 1)}
        </>
      )}
    </AnswerLine>
  );
}

/** How it stands, in a sentence that begins with its name. */
function standsInWords(pull: PullRequestReply, newest: BuildRow | undefined): string {
  const { name, preview } = pull;
  if (waitsForWord(pull)) return `${name} waits for a member’s word: its code is an outsider’s.`;
  if (pull.state !== 'open') return `${name} is ${pull.state}.`;
  if (newest === undefined && pull.outsider && !pull.takesWord)
    return `${name} is an outsider’s, and the map has nothing of theirs built.`;
  if (newest === undefined)
    return `${name} is not built: neither the map nor a recipe sends pull requests into ${pull.into} anywhere.`;
  if (newest.state === 'failed') return `${name} does not build: ${newest.failure?.what ?? ''}`;
  if (newest.state !== 'passed' && newest.state !== 'reused') return `${name} is ${newest.state}.`;
  const isLive =
    preview?.artifact != null && pull.builds.some((one) => one.number === preview.build);
  if (isLive) return `${name} is live in its preview.`;
  return `${name} builds; nothing of it is live anywhere${pull.isDraft ? ', as it is a draft' : ''}.`;
}

/** Where it can be looked at: its own environment, what that serves, and when it ends. */
function Preview({
  project,
  pull,
  now,
}: {
  readonly project: string;
  readonly pull: PullRequestReply;
  readonly now: number;
}) {
  const { preview } = pull;
  if (preview === null) return <SeenAt pull={pull} />;
  return (
    <section aria-label="Preview" className="mb-4">
      <h2>
        <b className="font-[650]">Preview</b>{' '}
        <span className="text-ink-2">an environment of its own, by the map</span>
      </h2>
      <p className="mt-1 border-t border-rule pt-1">
        <a href={preview.address} className="font-mono text-[0.86em] [overflow-wrap:anywhere]">
          {preview.address.replace(/^https?:\/\//, '')}
        </a>{' '}
        {preview.artifact === null ? (
          <>
            <Unbranded size={14} /> waits for its first build
          </>
        ) : (
          <>
            <BrandMark digest={preview.artifact} size={14} className="align-[-2px]" /> serves build{' '}
            {preview.build}
          </>
        )}
        {preview.endsAt === null ? null : (
          <span className="text-ink-2">
            , ends {moment(preview.endsAt, now)} if nothing happens
            {preview.family?.kept == null ? '' : `, kept by ${preview.family.kept.by}`}
          </span>
        )}{' '}
        <KeepPreview project={project} preview={preview} />{' '}
        <EndPreview project={project} lane={preview} />
      </p>
      <Admits project={project} environment={preview} />
    </section>
  );
}

/** Where an outsider's build can be looked at: by its own address, for members alone. */
function SeenAt({ pull: { seenAt } }: { readonly pull: PullRequestReply }) {
  if (seenAt === null) return null;
  return (
    <section aria-label="Preview" className="mb-4">
      <h2>
        <b className="font-[650]">Preview</b>{' '}
        <span className="text-warn">of an outsider’s code, at its build’s own address</span>
      </h2>
      <p className="mt-1 border-t border-rule pt-1">
        <a href={seenAt.address} className="font-mono text-[0.86em] [overflow-wrap:anywhere]">
          {seenAt.address.replace(/^https?:\/\//, '')}
        </a>{' '}
        <BrandMark digest={seenAt.artifact} size={14} className="align-[-2px]" /> build{' '}
        {seenAt.build}, for members; no environment serves it
      </p>
    </section>
  );
}

/** The one framed act of the page. */
function Word({ project, pull }: { readonly project: string; readonly pull: PullRequestReply }) {
  const [open, setOpen] = useState(false);
  const { data: me } = useQuery(mine);
  const mayBuild = may(me?.grants ?? [], 'build', project);
  return (
    <section aria-label="A member’s word" className="mb-4 border-2 border-ink bg-sheet p-3">
      <h2 className="font-serif text-section font-[560]">
        <Glyph name="waiting" className="text-warn" /> {pull.head?.commit.slice(0, 8)} is not built
        yet
      </h2>
      <p className="mt-1">
        Read what it changes, beside this. Then give your word for this commit; it gets no values,
        and reaches no environment.
      </p>
      <p className="mt-2">
        <Button tone="action" disabled={!mayBuild} onClick={() => setOpen(true)}>
          Build this commit…
        </Button>{' '}
        {mayBuild ? null : <span className="text-ink-2">a builder of this project may</span>}
      </p>
      <WordSheet project={project} pull={pull} open={open} onOpenChange={setOpen} />
    </section>
  );
}

function Pushes({
  project,
  pull,
  now,
}: {
  readonly project: string;
  readonly pull: PullRequestReply;
  readonly now: number;
}) {
  // Its head may have been built for its branch, or for what it was merged into.
  const elsewhere = pull.builds.filter(
    (build) => !pull.pushes.some((one) => one.number === build.number),
  );
  const all: readonly BuildRow[] = [...elsewhere, ...pull.pushes];
  return (
    <section aria-label="Builds">
      <h2 className="border-b border-rule-2 pb-0.5 font-[600]">
        {all.length === 0 ? 'Not built' : `${counted(all.length, 'build')} of its commits`}{' '}
        {pull.outsider ? (
          <span className="font-[400] text-warn">
            code of an outsider: no values, no caches, no results of others
          </span>
        ) : null}
      </h2>
      {pull.trouble === null ? null : (
        <p role="alert" className="mt-1 border-l-4 border-bad bg-bad-wash px-2 py-1">
          Its branch is not read: {pull.trouble}. What was read before stays.
        </p>
      )}
      {all.length === 0 && !waitsForWord(pull) ? (
        <p className="py-1 text-ink-2">{pull.says}</p>
      ) : null}
      <ul>
        {all.map((build) => (
          <li
            key={build.number}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-rule leading-[25px]"
          >
            <Link to={`/p/${project}/builds/${build.number}`} className="whitespace-nowrap">
              {build.artifact === null ? (
                <Unbranded size={14} />
              ) : (
                <BrandMark digest={build.artifact.digest} size={14} className="align-[-2px]" />
              )}{' '}
              <b className="font-[650]">{build.number}</b>
            </Link>
            <code className="text-ink-2">{build.commit.id.slice(0, 8)}</code>
            <span className="said min-w-40 flex-1">
              {build.commit.subject}
              {build.recipeName === 'site' ? null : (
                <span className="font-sans text-ink-2"> by the recipe {build.recipeName}</span>
              )}
            </span>
            <span className="whitespace-nowrap">
              <Glyph name={build.state} /> {build.state}
            </span>
            <span className="w-16 whitespace-nowrap text-right text-ink-2">
              {build.startedAt === null || build.endedAt === null || build.reusedFrom !== null
                ? ''
                : lasting(build.endedAt - build.startedAt)}
            </span>
            <span className="whitespace-nowrap text-ink-2">{moment(build.queuedAt, now)}</span>
          </li>
        ))}
      </ul>
      {pull.word === null ? null : (
        <p className="mt-1 text-ink-2">
          Built on the word of {pull.word.by}, {moment(pull.word.at, now)}.
        </p>
      )}
    </section>
  );
}

function Brings({ pull }: { readonly pull: PullRequestReply }) {
  const { commits, files } = pull;
  const most = Math.max(1, ...files.map((file) => (file.added ?? 0) + (file.removed ?? 0)));
  if (pull.state !== 'open') return <p className="text-ink-2">{pull.says}</p>;
  return (
    <section aria-label="What it brings">
      <h2 className="border-b border-rule-2 pb-0.5 font-[600]">
        {counted(commits.length, 'commit')}, {counted(files.length, 'file')}
      </h2>
      <ul>
        {commits.map((one) => (
          <li key={one.id} className="truncate leading-[22px]">
            <code className="text-ink-2">{one.id.slice(0, 8)}</code>{' '}
            <span className="said">{one.subject}</span>, {authorInWords(one)}
          </li>
        ))}
      </ul>
      <ul className="mt-2 border-t border-rule pt-1">
        {files.slice(0, 30).map((file) => (
          <li
            key={file.path}
            className="grid grid-cols-[minmax(0,1fr)_auto_6rem] items-center gap-x-2 leading-[20px]"
          >
            <code className="truncate" title={file.path}>
              {file.path}
            </code>
            <span className="whitespace-nowrap text-ink-2">
              {file.added === null ? 'binary' : `+${file.added} −${file.removed ?? 0}`}
            </span>
            <span aria-hidden="true" className="flex h-2">
              <span className="bg-good" style={{ width: `${((file.added ?? 0) / most) * 100}%` }} />
              <span
                className="border border-bad"
                style={{ width: `${((file.removed ?? 0) / most) * 100}%` }}
              />
            </span>
          </li>
        ))}
      </ul>
      {files.length > 30 ? <p className="text-ink-2">and {files.length - 30} more</p> : null}
      <p className="mt-2 text-ink-2">
        Line by line:{' '}
        <code className="[overflow-wrap:anywhere]">
          git fetch {pull.from.place ?? 'origin'} {pull.from.branch} && git diff {pull.into}
          ...FETCH_HEAD
        </code>
      </p>
    </section>
  );
}
