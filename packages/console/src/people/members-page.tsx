import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { SettingsTabs } from '../frame/settings-tabs.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { sourceOf } from '../projects/source-of.ts';
import { Members } from './members.tsx';
import { Services } from './services.tsx';

/** The people of a project: who may do what, and who is invited. */
export function MembersPage() {
  const { project = '' } = useParams();
  const asked = useQuery(sourceOf(project));
  return (
    <Page project={project} title="Settings" what="the project" asked={asked}>
      {() => (
        <>
          <AnswerLine below="A role is given, changed and taken at once; every change is in the log.">
            Who may do what in {project}.
          </AnswerLine>
          <SettingsTabs project={project} />
          <Members project={project} />
        </>
      )}
    </Page>
  );
}

/** The programs of a project: services, which are no persons, with tokens of their own. */
export function ProgramsPage() {
  const { project = '' } = useParams();
  const asked = useQuery(sourceOf(project));
  return (
    <Page project={project} title="Settings" what="the project" asked={asked}>
      {() => (
        <>
          <AnswerLine below="What a service opens stays when whoever made it leaves.">
            Programs that act for {project}.
          </AnswerLine>
          <SettingsTabs project={project} />
          <Services project={project} />
        </>
      )}
    </Page>
  );
}
