import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { SettingsPage } from '../frame/settings-page.tsx';
import { EndOfProject } from './life.tsx';
import { sourceOf } from './source-of.ts';

/** The end of a project, apart from what is set from day to day. */
export function EndPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="the project"
      asked={useQuery(sourceOf(project))}
      answer={() => `${project} can be ended; its history stays to be read.`}
      below="What goes and what stays is said before anything ends."
    >
      {() => <EndOfProject project={project} />}
    </SettingsPage>
  );
}
