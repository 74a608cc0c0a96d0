import type { ReactNode } from 'react';
import { AnswerLine } from '../parts/answer.tsx';
import { PageTabs } from '../parts/page-tabs.tsx';
import { type Asked, Page } from './page.tsx';

interface SettingsPageProps<Data> {
  readonly project: string;
  /** What is read, for the line that says so. */
  readonly what: string;
  readonly asked: Asked<Data>;
  /** What is set now, in a sentence, and what holds for all of it. */
  readonly answer: (data: Data) => string;
  readonly below: string;
  readonly children: (data: Data) => ReactNode;
}

/** A page of what is set of a project: what it says first, the way to the others, and what is set there. */
export function SettingsPage<Data>(props: SettingsPageProps<Data>) {
  const { project, what, asked, answer, below, children } = props;
  return (
    <Page project={project} title="Settings" what={what} asked={asked}>
      {(data) => (
        <>
          <AnswerLine below={below}>{answer(data)}</AnswerLine>
          <SettingsTabs project={project} />
          {children(data)}
        </>
      )}
    </Page>
  );
}

/** What is set of a project, a page each; the map has its own. */
function SettingsTabs({ project }: { readonly project: string }) {
  const at = `/p/${project}`;
  return (
    <PageTabs
      label="Settings"
      tabs={[
        { to: `${at}/settings`, words: 'Project' },
        { to: `${at}/settings/building`, words: 'Building' },
        { to: `${at}/map`, words: 'Map' },
        { to: `${at}/settings/values`, words: 'Values' },
        { to: `${at}/settings/people`, words: 'People' },
        { to: `${at}/settings/programs`, words: 'Programs' },
        { to: `${at}/settings/end`, words: 'End' },
      ]}
    />
  );
}
