import { useQuery } from '@tanstack/react-query';
import type { SourceReply } from '@vaquero/contracts';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { SettingsTabs } from '../frame/settings-tabs.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { NameSetting } from './life.tsx';
import { sourceOf } from './source-of.ts';
import { SourceSetting } from './source-setting.tsx';

/** What a project is: what it is built from, what its repository is read with, its name. */
export function ProjectSettingsPage() {
  const { project = '' } = useParams();
  const asked = useQuery(sourceOf(project));
  return (
    <Page project={project} title="Settings" what="what it is built from" asked={asked}>
      {(source) => (
        <>
          <AnswerLine below="Each is tried before it is set, and what it would change is said.">
            {answerOf(project, source)}
          </AnswerLine>
          <SettingsTabs project={project} />
          <SourceSetting project={project} />
          <NameSetting key={project} project={project} />
        </>
      )}
    </Page>
  );
}

function answerOf(project: string, { branch, folder }: SourceReply): string {
  const where = folder === '' ? '' : `, folder ${folder}`;
  return `${project} is built from ${branch}${where}.`;
}
