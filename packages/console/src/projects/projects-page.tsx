import { useQuery } from '@tanstack/react-query';
import type { EnvironmentSeen, ProjectSeen } from '@vaquero/contracts';
import { counted, may, type Need, needsOf } from '@vaquero/core';
import { Fragment } from 'react';
import { Link } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { day } from '../parts/words.ts';
import { mine } from '../people/mine.ts';
import { NeedTable } from './need-table.tsx';
import type { ProjectLive } from './project-table.tsx';
import { ProjectsListed } from './projects-listed.tsx';
import { liveEverywhere, projectsSeen } from './projects-seen.ts';

/** All projects: does anything need me? */
export function ProjectsPage() {
  const asked = useQuery(liveEverywhere);
  const { data: seen = [] } = useQuery(projectsSeen);
  const { data: me } = useQuery(mine);
  return (
    <Page project={null} title="Projects" what="the projects" asked={asked}>
      {({ projects, edges, now }) => {
        const all = projects.map(({ project, environments }) => ({
          name: project,
          environments,
          project: seen.find(({ name }) => name === project),
        }));
        const needs = needsOf(all.map(asNow), me?.name ?? null);
        return (
          <>
            <AnswerLine below="First what keeps visitors from a change, then what waits for a word, then what stands still, then what failed before it reached anybody, last what of yours ends soon.">
              {answerOf(all.length, needs)}
            </AnswerLine>
            {edges.running === 0 && all.length > 0 ? (
              <p role="alert" className="mb-3 border-l-4 border-bad bg-bad-wash px-2 py-1">
                <Glyph name="failed" /> No edge is running: nothing answers, in any project.
              </p>
            ) : null}
            {all.length === 0 ? (
              <>
                <p className="border-t border-rule pt-2">
                  An operator makes one: <Link to="/new">here</Link>, or in a terminal,{' '}
                  <code>vaquero make NAME</code>
                </p>
                <EndedProjects projects={seen} />
              </>
            ) : (
              <>
                <NeedTable needs={needs} now={now} />
                <ProjectsListed projects={all} now={now} />
                <EndedProjects projects={seen} />
                <p className="mt-3">
                  {may(me?.grants ?? [], 'operate', null) ? (
                    <Link to="/new">Make a project</Link>
                  ) : (
                    <span className="text-ink-2">An operator makes another one.</span>
                  )}
                </p>
              </>
            )}
          </>
        );
      }}
    </Page>
  );
}

/** Those that have ended, below the others: they are read, and do nothing any more. */
function EndedProjects({ projects }: { readonly projects: readonly ProjectSeen[] }) {
  const ended = projects.filter(({ endedAt }) => endedAt !== null);
  if (ended.length === 0) return null;
  return (
    <p className="mt-3 text-ink-2">
      Ended:{' '}
      {ended.map(({ name, endedAt }, place) => (
        <Fragment key={name}>
          {place === 0 ? '' : ', '}
          <Link to={`/p/${name}`}>{name}</Link>
          {endedAt === null ? '' : ` (${day(endedAt)})`}
        </Fragment>
      ))}
    </p>
  );
}

/** A project as far as it may need somebody: its standing environments, its repository, its pull requests. */
function asNow({
  name,
  environments,
  project,
}: ProjectLive): Parameters<typeof needsOf>[0][number] {
  return {
    name,
    environments: environments.filter(({ family }) => family === null).map(placeNow),
    ending: environments.flatMap(({ name: preview, family }) =>
      family?.endsSoon === true && family.endsAt !== null
        ? [{ name: preview, owner: family.owner?.name ?? null, endsAt: family.endsAt }]
        : [],
    ),
    trouble: troubleOf(project),
    word: project?.word ?? null,
  };
}

function placeNow({ name, place, hold, waits }: EnvironmentSeen) {
  return {
    name,
    place,
    hold,
    offer: waits.kind === 'offer' ? waits : null,
    failed: waits.kind === 'nothing' ? waits.failed : null,
  };
}

function troubleOf(project: ProjectSeen | undefined) {
  const says = project?.repository.trouble ?? null;
  return says === null ? null : { says, since: project?.repository.lookedAt ?? null };
}

function answerOf(count: number, needs: readonly Need[]): string {
  if (count === 0) return 'There is no project yet.';
  const [first] = needs;
  if (first === undefined) return `${counted(count, 'project')}, and nothing waits for you.`;
  const need = needs.length === 1 ? 'needs' : 'need';
  return `${needs.length} of ${counted(count, 'project')} ${need} somebody, ${first.project} first.`;
}
