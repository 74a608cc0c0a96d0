import { useQuery } from '@tanstack/react-query';
import type { SourceReply } from '@vaquero/contracts';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { SettingsTabs } from '../frame/settings-tabs.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { clock, day } from '../parts/words.ts';
import { NameSetting } from './life.tsx';
import { projectsSeen } from './projects-seen.ts';
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
          <RepositoryLine project={project} />
          <SourceSetting project={project} />
          <NameSetting key={project} project={project} />
        </>
      )}
    </Page>
  );
}

/** Where its repository is, and how it stands. */
function RepositoryLine({ project }: { readonly project: string }) {
  const { data: projects } = useQuery(projectsSeen);
  const seen = projects?.find(({ name }) => name === project)?.repository;
  if (seen === undefined) return null;
  const { kind, place, home, state, lookedAt } = seen;
  const where = kind === 'hosted' ? 'hosted here; push to' : 'read from';
  return (
    <p className="mt-3">
      <b className="font-[650]">Repository</b> {home === project ? '' : `that of ${home}, `}
      {where} <code className="[overflow-wrap:anywhere]">{place}</code>{' '}
      <span className="text-ink-2">
        {state}
        {lookedAt === null ? '' : `, ${day(lookedAt)} ${clock(lookedAt)} UTC`}
      </span>
    </p>
  );
}

function answerOf(project: string, { branch, folder }: SourceReply): string {
  const where = folder === '' ? '' : `, folder ${folder}`;
  return `${project} is built from ${branch}${where}.`;
}
