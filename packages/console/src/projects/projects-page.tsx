import { useQuery } from '@tanstack/react-query';
import type { ProjectSeen } from '@vaquero/contracts';
import { buildStates } from '@vaquero/core';
import { Link } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { counted } from '../parts/words.ts';
import { projectsSeen } from '../projects/projects-seen.ts';

/** All projects: does anything need me? */
export function ProjectsPage() {
  const asked = useQuery(projectsSeen);
  return (
    <Page project={null} title="Projects" what="the projects" asked={asked}>
      {(projects) => (
        <>
          <AnswerLine>{answerOf(projects)}</AnswerLine>
          {projects.length === 0 ? (
            <p className="border-t border-rule pt-2">
              An operator makes one: <code>vaquero make NAME</code>
            </p>
          ) : (
            <ProjectList projects={projects} />
          )}
        </>
      )}
    </Page>
  );
}

function answerOf(projects: readonly ProjectSeen[]): string {
  const failed = projects.filter((project) => project.lastBuild?.state === 'failed');
  if (projects.length === 0) return 'There is no project yet.';
  return failed.length === 0
    ? `${counted(projects.length, 'project')}, and no last build failed.`
    : `The last build failed in ${failed.map((project) => project.name).join(', ')}.`;
}

function ProjectList({ projects }: { readonly projects: readonly ProjectSeen[] }) {
  return (
    <ul className="border-t border-rule-2">
      {projects.map((project) => (
        <li
          key={project.name}
          className="grid grid-cols-[12rem_1fr] gap-x-4 border-b border-rule py-2 max-sm:grid-cols-1"
        >
          <Link to={`/p/${project.name}`} className="font-serif text-section">
            {project.name}
          </Link>
          <span>
            <span className="block">
              {project.head === null ? (
                project.repository.state
              ) : (
                <>
                  <span className="said">{project.head.subject}</span>{' '}
                  <code>{project.head.commit.slice(0, 8)}</code>
                </>
              )}
            </span>
            <span className="text-ink-2">
              {project.lastBuild === null ? (
                'no build yet'
              ) : (
                <>
                  <Glyph
                    name={
                      buildStates.find((state) => state === project.lastBuild?.state) ?? 'waiting'
                    }
                  />{' '}
                  build {project.lastBuild.number} {project.lastBuild.state}
                </>
              )}
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}
