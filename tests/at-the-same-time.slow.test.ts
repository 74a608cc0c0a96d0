import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, environmentRoutes, mapRoutes, pullRequestRoutes } from '@vaquero/contracts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { type Sleeper, sleeper } from './support/sleeper.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const slow = (text: string, { shell }: Sleeper) => ({
  'vaquero.yaml': recipeOf(`${shell}; ${writesPage(text)}`),
});
const quick = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });

// What the guide says of things that happen at the same time, each on a project of its own.
test('what happens while something else goes on ends as the guide says', async (t) => {
  const service = await startTestService(t);
  const { operator } = service;
  let number = 0;

  /** A project with its first commit on main, where branches called try/… have previews. */
  async function begin(more = '') {
    number += 1;
    const project = `quay-${number}`;
    const params = { project };
    const { copy, remote } = await service.project(project);
    await changeMap(service, project, (text) =>
      text.replace(
        'each: {proposed-into: main}',
        `each: {proposed-into: main, branch: "try/*"}, ends: {closed: 0 min}${more}`,
      ),
    );
    await copy.commit('One', quick('one'));
    await copy.push(remote);
    const push = (...refs: string[]) => copy.git('push', '--quiet', '--force', remote, ...refs);
    const commit = async (branch: string, files: Record<string, string>, from = 'main') => {
      await copy.git('checkout', '--quiet', '-B', branch, from);
      await copy.commit(branch, files);
      return (await copy.git('rev-parse', 'HEAD')).trim();
    };
    const lanes = async () =>
      (await operator.call(environmentRoutes.lanesRoute, { params, query: { days: 1 } }))
        .environments;
    const named = async (name: string) => (await lanes()).find((one) => one.name === name);
    const builds = async () =>
      (await operator.call(buildRoutes.listBuildsRoute, { params, query: { limit: 50 } })).builds;
    const serves = (name: string, commit_: string) =>
      until(
        `${name} serves ${commit_}`,
        async () => {
          const { serves: now = null } = (await named(name)) ?? {};
          return now?.commit === commit_ && now.confirmedAt !== null && now;
        },
        { seen: lanes },
      );
    const runs = (of: string) =>
      until('its build runs', async () =>
        (await builds()).find((one) => one.commit.id === of && one.state === 'running'),
      );
    const allEnded = () =>
      until('every build has ended', async () =>
        (await builds()).every(({ state }) => state !== 'queued' && state !== 'running'),
      );
    const propose = async (branch: string) =>
      (
        await operator.call(pullRequestRoutes.openPullRequestRoute, {
          params,
          body: { branch, title: branch, place: null },
        })
      ).name;
    return {
      project,
      params,
      copy,
      remote,
      push,
      commit,
      named,
      lanes,
      builds,
      serves,
      runs,
      allEnded,
      propose,
    };
  }

  await t.test(
    'a pull request closed while it is built: the build ends, and nothing comes of it',
    async () => {
      const { params, push, commit, named, runs, allEnded, propose, builds } = await begin();
      const step = sleeper();
      const head = await commit('rope', slow('rope', step));
      await push('rope');
      const pullRequest = await propose('rope');
      await runs(head);
      await operator.call(pullRequestRoutes.closePullRequestRoute, {
        params: { ...params, pullRequest },
      });
      await until('its preview has ended', async () => (await named(pullRequest)) === undefined);
      await step.wakeFor(allEnded());
      assert.equal((await builds()).find((one) => one.commit.id === head)?.state, 'passed');
      assert.equal(await named(pullRequest), undefined);
    },
  );

  await t.test(
    'a pull request merged while its preview is built: the target serves that commit',
    async () => {
      const { params, push, commit, serves, runs, propose, named } = await begin();
      const step = sleeper();
      const head = await commit('buoy', slow('buoy', step));
      await push('buoy');
      const pullRequest = await propose('buoy');
      await runs(head);
      const one = await operator.call(pullRequestRoutes.showPullRequestRoute, {
        params: { ...params, pullRequest },
      });
      await operator.call(pullRequestRoutes.mergePullRequestRoute, {
        params: { ...params, pullRequest },
        body: { head: head as never, target: one.merge?.target ?? assert.fail() },
      });
      await step.wakeFor(serves('staging', head));
      await until('its preview has ended', async () => (await named(pullRequest)) === undefined);
    },
  );

  await t.test(
    'a force-push during a build: the newer commit stays, however late the older build ends',
    async () => {
      const { push, commit, serves, runs, allEnded } = await begin();
      const step = sleeper();
      const older = await commit('try/knot', slow('older', step));
      await push('try/knot');
      await runs(older);
      const newer = await commit('try/knot', quick('newer'));
      await push('try/knot');
      await serves('try-knot', newer);
      await step.wakeFor(allEnded());
      await serves('try-knot', newer);
    },
  );

  await t.test(
    'a branch deleted and made again: its environment is back with its history, without a build',
    async () => {
      const { push, commit, serves, named, builds } = await begin();
      const head = await commit('try/mast', quick('mast'));
      await push('try/mast');
      const first = await serves('try-mast', head);
      await push(':try/mast');
      await until('it has ended', async () => (await named('try-mast')) === undefined);
      await push('try/mast');
      const again = await serves('try-mast', head);
      assert.deepEqual([again.number, again.artifact], [first.number + 1, first.artifact]);
      assert.equal((await builds())[0]?.state, 'reused');
    },
  );

  await t.test('a moved tag takes its environment along', async () => {
    const { project, copy, push, commit, serves } = await begin();
    await changeMap(service, project, (text) =>
      text
        .replace('[production, staging', '[production, tagged, staging')
        .replace('  staging:', '  tagged: {follows: {tag: "v*"}}\n  staging:'),
    );
    const one = await commit('main', quick('v1'), 'main');
    await copy.git('tag', 'v1');
    await push('main', 'v1');
    await serves('tagged', one);
    const two = await commit('main', quick('v1, mended'), 'main');
    await copy.git('tag', '--force', 'v1');
    await push('main', 'v1');
    await serves('tagged', two);
  });

  await t.test(
    'at-most reached by two at once: no more live than may, and the newest are among them',
    async () => {
      const { push, commit, lanes, allEnded } = await begin(', at-most: 2');
      for (const name of ['try/a', 'try/b', 'try/c', 'try/d']) await commit(name, quick(name));
      await Promise.all([push('try/a', 'try/b'), push('try/c')]);
      await push('try/d');
      await until(
        'two live',
        async () => (await lanes()).filter(({ family }) => family !== null).length === 2,
      );
      await allEnded();
      const live = (await lanes()).filter(({ family }) => family !== null).map(({ name }) => name);
      assert.equal(live.length, 2);
      assert.ok(live.includes('try-d'), live.join());
    },
  );

  await t.test(
    'two pushes at once into one environment: what was noticed last is served, and stays',
    async () => {
      const { project, params, push, commit, named, allEnded, builds } = await begin();
      await changeMap(service, project, (text) =>
        text.replace('follows: {branch: main}', 'follows: {branch: [main, north, south]}'),
      );
      await allEnded();
      const north = await commit('north', quick('north'));
      const south = await commit('south', quick('south'));
      await Promise.all([push('north'), push('south')]);
      await until('both are built', async () => {
        const done = (await builds())
          .filter(({ state }) => state === 'passed')
          .map((one) => one.commit.id);
        return done.includes(north as never) && done.includes(south as never);
      });
      await allEnded();
      const last = await until('staging waits for nothing', async () => {
        const staging = await named('staging');
        return (
          staging?.waits.kind === 'nothing' && staging.serves?.confirmedAt != null && staging.serves
        );
      });
      assert.ok([north, south].includes(last.commit));
      // Looked at once more, nothing moves.
      await operator.call(mapRoutes.showMapRoute, { params });
      assert.equal((await named('staging'))?.serves?.number, last.number);
    },
  );
});
