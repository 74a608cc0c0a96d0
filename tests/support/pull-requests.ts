import { buildRoutes, pullRequestRoutes } from '@vaquero/contracts';
import type { CommitId } from '@vaquero/core';
import type { TestService } from './service.ts';

/** The project of these tests. */
export const params = { project: 'timetable' };
/** Opens a pull request, of an outsider where a place is named. */
export const open = (
  { operator }: Pick<TestService, 'operator'>,
  branch: string,
  place: string | null = null,
) =>
  operator.call(pullRequestRoutes.openPullRequestRoute, {
    params,
    body: { branch, place, title: `About ${branch}` },
  });
/** One pull request as it stands. */
export const show = ({ operator }: TestService, name = 'pr-1') =>
  operator.call(pullRequestRoutes.showPullRequestRoute, {
    params: { ...params, pullRequest: name },
  });
/** A member's word for a commit. */
export const giveWord = (service: Pick<TestService, 'operator'>, commit: string, name = 'pr-1') =>
  service.operator.call(pullRequestRoutes.giveWordRoute, {
    params: { ...params, pullRequest: name },
    body: { commit: commit as CommitId },
  });
/** The numbers of all builds, oldest first. */
export const numbersOf = async ({ operator }: TestService) => {
  const query = { limit: 50 };
  const { builds } = await operator.call(buildRoutes.listBuildsRoute, { params, query });
  return builds.map((build) => build.number).toReversed();
};

/** A recipe for the trunk and for what is proposed into it. */
export const forPulls = 'for: {branch: main, proposed-into: main}\n';
/** A site of one page, by such a recipe. */
export const pages = (text: string, more = '') => ({
  'page.html': text,
  'vaquero.yaml': `${forPulls}steps:
  pages: {run: cp page.html out/index.html, reads: page.html, writes: out}
  links: {run: echo checked, after: pages, reads: [], for: {branch: main}}
${more}serve: {site: out}
`,
});
