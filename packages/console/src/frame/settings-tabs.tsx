import { PageTabs } from '../parts/page-tabs.tsx';

/** What is set of a project, a page each; the map has its own. */
export function SettingsTabs({ project }: { readonly project: string }) {
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
