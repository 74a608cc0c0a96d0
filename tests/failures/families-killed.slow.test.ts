import assert from 'node:assert/strict';
import test from 'node:test';
import { auditRoutes, environmentRoutes, mapRoutes } from '@vaquero/contracts';
import { until } from '../support/place.ts';
import { startInstallation } from '../support/processes.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const params = { project: 'timetable' };

test('kill -9 of the api while branches come and go: each has one environment, made once, at its newest commit', async (t) => {
  const here = await startInstallation(t);
  const { client, copy, remote } = here;
  await copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok((await copy.push(remote)).ok);
  const { text, tag } = await client.call(mapRoutes.showMapRoute, { params });
  const setMap = client.call(mapRoutes.setMapRoute, {
    params,
    body: {
      text: text.replace(
        'each: {proposed-into: main}',
        'each: {branch: "try/*"}, ends: {closed: 0 min}',
      ),
      reason: 'branches, too',
      ends: [],
    },
    seen: tag,
  });
  await setMap;
  // Killed at whatever instant of noticing it happens to be: a push may be cut off, and is pushed again.
  const push = (...refs: string[]) =>
    copy.git('push', '--quiet', '--force', remote, ...refs).catch(() => 'cut off');
  const newest = new Map<string, string>();
  for (const round of [1, 2, 3]) {
    for (const name of ['try/a', 'try/b', 'try/c']) {
      await copy.git('checkout', '--quiet', '-B', name, 'main');
      await copy.commit(name, { 'vaquero.yaml': recipeOf(writesPage(`${name} ${round}`)) });
      newest.set(name, (await copy.git('rev-parse', 'HEAD')).trim());
    }
    const pushing = push('try/a', 'try/b', 'try/c');
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 150));
    await here.kill('api');
    await pushing;
    await until(
      `round ${round} is pushed`,
      async () => (await push('try/a', 'try/b', 'try/c')) !== 'cut off',
    );
  }
  const gone = push(':try/c');
  await here.kill('api');
  await gone;
  await until('its branch is gone', async () => {
    await push(':try/c');
    return !(await copy.git('ls-remote', remote)).includes('refs/heads/try/c');
  });

  const previews = async () => {
    const { environments } = await client.call(environmentRoutes.lanesRoute, {
      params,
      query: { days: 1 },
    });
    return environments.filter(({ family }) => family !== null);
  };
  await until(
    'both serve their newest commit, and the third has ended',
    async () => {
      const all = await previews();
      return (
        all.map(({ name }) => name).join() === 'try-a,try-b' &&
        all.every(
          ({ serves, family }) =>
            serves?.commit === newest.get(family?.of ?? '') && serves?.confirmedAt !== null,
        )
      );
    },
    { seen: previews },
  );
  const { entries } = await client.call(auditRoutes.auditRoute, { params, query: { limit: 200 } });
  const made = entries.filter(({ kind }) => kind === 'environment.made').map(({ bytes }) => bytes);
  for (const name of ['try-a', 'try-b', 'try-c'])
    assert.equal(made.filter((bytes) => bytes.includes(`"${name}"`)).length, 1, name);
  assert.equal(entries.filter(({ kind }) => kind === 'environment.ended').length, 1);
});
