import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { SettingsPage } from '../frame/settings-page.tsx';
import { sourceOf } from '../projects/source-of.ts';
import { Members } from './members.tsx';
import { Services } from './services.tsx';

/** The people of a project: who may do what, and who is invited. */
export function MembersPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="the project"
      asked={useQuery(sourceOf(project))}
      answer={() => `Who may do what in ${project}.`}
      below="A role is given, changed and taken at once; every change is in the log."
    >
      {() => <Members project={project} />}
    </SettingsPage>
  );
}

/** The programs of a project: services, which are no persons, with tokens of their own. */
export function ProgramsPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="the project"
      asked={useQuery(sourceOf(project))}
      answer={() => `Programs that act for ${project}.`}
      below="What a service opens stays when whoever made it leaves."
    >
      {() => <Services project={project} />}
    </SettingsPage>
  );
}
