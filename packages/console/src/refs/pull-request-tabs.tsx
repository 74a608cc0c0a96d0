import { PageTabs } from '../parts/page-tabs.tsx';

/** What is proposed, and what lives of it. */
export function PullRequestTabs({ project }: { readonly project: string }) {
  return (
    <PageTabs
      label="Pull requests"
      tabs={[
        { to: `/p/${project}/pull-requests`, words: 'Proposed' },
        { to: `/p/${project}/pull-requests/previews`, words: 'Previews' },
      ]}
    />
  );
}
