import { useQuery } from '@tanstack/react-query';
import type { SourceReply } from '@vaquero/contracts';
import { useParams } from 'react-router';
import { SettingsPage } from '../frame/settings-page.tsx';
import { clock, day } from '../parts/words.ts';
import { AddressSetting } from './address-setting.tsx';
import { NameSetting } from './life.tsx';
import { projectsSeen } from './projects-seen.ts';
import { sourceOf } from './source-of.ts';
import { SourceSetting } from './source-setting.tsx';

/** What a project is: what it is built from, what its repository is read with, its name. */
export function ProjectSettingsPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="what it is built from"
      asked={useQuery(sourceOf(project))}
      answer={(source) => answerOf(project, source)}
      below="Each is tried before it is set, and what it would change is said."
    >
      {() => (
        <>
          <RepositoryLine project={project} />
          <SourceSetting project={project} />
          <NameSetting key={project} project={project} />
        </>
      )}
    </SettingsPage>
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
    <section aria-label="Repository">
      <p className="mt-3">
        <b className="font-[650]">Repository</b> {home === project ? '' : `that of ${home}, `}
        {where} <code className="[overflow-wrap:anywhere]">{place}</code>{' '}
        <span className="text-ink-2">
          {state}
          {lookedAt === null ? '' : `, ${day(lookedAt)} ${clock(lookedAt)} UTC`}
        </span>
      </p>
      {kind === 'hosted' ? null : <AddressSetting key={place} project={project} place={place} />}
    </section>
  );
}

function answerOf(project: string, { branch, folder }: SourceReply): string {
  const where = folder === '' ? '' : `, folder ${folder}`;
  return `${project} is built from ${branch}${where}.`;
}
