import { PageTabs } from '../parts/page-tabs.tsx';

/** The two questions that the map answers, a page each. */
export function MapTabs({ project }: { readonly project: string }) {
  const map = `/p/${project}/map`;
  return (
    <PageTabs
      label="The map"
      tabs={[
        { to: map, words: 'Drawn and written' },
        { to: `${map}/reach`, words: 'Reach and why' },
      ]}
    />
  );
}
