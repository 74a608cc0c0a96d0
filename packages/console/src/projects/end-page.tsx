import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { SettingsTabs } from '../frame/settings-tabs.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { EndOfProject } from './life.tsx';
import { sourceOf } from './source-of.ts';

/** The end of a project, apart from what is set from day to day. */
export function EndPage() {
  const { project = '' } = useParams();
  const asked = useQuery(sourceOf(project));
  return (
    <Page project={project} title="Settings" what="the project" asked={asked}>
      {() => (
        <>
          <AnswerLine below="What goes and what stays is said before anything ends.">
            {project} can be ended; its history stays to be read.
          </AnswerLine>
          <SettingsTabs project={project} />
          <EndOfProject project={project} />
        </>
      )}
    </Page>
  );
}
