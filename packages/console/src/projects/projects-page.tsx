import { useQuery } from '@tanstack/react-query';
import { buildStates } from '@vaquero/core';
import { Link } from 'react-router';
import { AnswerLine, Failed, Frame, projectsSeen, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { counted } from '../parts/words.ts';

/** All projects: does anything need me? */
export function ProjectsPage() {
  const { data, error, refetch } = useQuery(projectsSeen);
  const failed = (data ?? []).filter((project) => project.lastBuild?.state === 'failed');
  return (
    <Frame project={null}>
      <AnswerLine>
        {data === undefined
          ? 'Projects'
          : data.length === 0
            ? 'There is no project yet.'
            : failed.length === 0
              ? `${counted(data.length, 'project')}, and no last build failed.`
              : `The last build failed in ${failed.map((project) => project.name).join(', ')}.`}
      </AnswerLine>
      {error !== null ? <Failed error={error} retry={() => void refetch()} /> : null}
      {data === undefined && error === null ? <Reading what="the projects" /> : null}
      {data?.length === 0 ? (
        <p className="border-t border-rule pt-2">
          An operator makes one: <code>vaquero make NAME</code>
        </p>
      ) : null}
      <ul className="border-t border-rule-2">
        {data?.map((project) => (
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
    </Frame>
  );
}
