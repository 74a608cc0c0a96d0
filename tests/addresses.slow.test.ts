import assert from 'node:assert/strict';
import test from 'node:test';
import { readRecipe } from '@vaquero/contracts';
import { makeResolver, rulesOf, withQuery } from '@vaquero/core';
import { cases } from './addresses/cases.ts';
import { type Site, sites } from './addresses/sites.ts';
import { startTestService } from './support/service.ts';

const names = Object.keys(sites) as (keyof typeof sites)[];
const several = '  site: {/: main, /print: sheets, /wide/screens: wide}\n';

/** A repository that publishes a site as it lies there: each file holds its own path. */
function repository(name: string, { files, serve }: Site): Record<string, string> {
  const isSeveral = name === 'several';
  const recipe = `recipe: site\nformat: 1\nserve:\n${isSeveral ? several : '  site: out\n'}${serve}`;
  return {
    'vaquero.yaml': recipe,
    ...Object.fromEntries(files.map((path) => [isSeveral ? path : `out/${path}`, path])),
  };
}

/** The paths of a site's artifact, and of each the file it was made from. */
function published(name: string, { files }: Site): ReadonlyMap<string, string> {
  if (name !== 'several') return new Map(files.map((path) => [path, path]));
  const at = { main: '', sheets: 'print/', wide: 'wide/screens/' } as const;
  return new Map(
    files.map((path) => {
      const [folder = '', ...rest] = path.split('/');
      return [`${at[folder as keyof typeof at]}${rest.join('/')}`, path];
    }),
  );
}

for (const name of names)
  test(`core: ${cases[name].length} addresses of ${name}`, () => {
    const site: Site = sites[name];
    const read = readRecipe(repository(name, site)['vaquero.yaml'] ?? '');
    assert.ok(read.ok && read.value.serve !== null, JSON.stringify(read));
    const files = published(name, site);
    const resolve = makeResolver((path) => files.has(path), rulesOf(read.value.serve));
    for (const [asked, expected] of cases[name]) {
      const [target = '', ...query] = asked.split('?');
      const answer = resolve(target);
      const said =
        answer.kind === 'file'
          ? `${answer.status} ${answer.path}`
          : answer.kind === 'moved'
            ? `308 ${withQuery(answer.to, query.length === 0 ? undefined : query.join('?'))}`
            : `${answer.kind === 'absent' ? 404 : 400} -`;
      assert.equal(said, expected, asked);
    }
  });

test('an edge answers each of them as core says', async (t) => {
  const service = await startTestService(t);
  await Promise.all(
    names.map(async (name) => {
      const site: Site = sites[name];
      const { push } = await service.project(name);
      const build = await push('A site', repository(name, site));
      assert.equal(build.state, 'passed', `${name}: ${JSON.stringify(build.failure)}`);
      const from = published(name, site);
      for (const [asked, expected] of cases[name]) {
        const page = await service.page(`staging.${name}.localhost:${service.edgePort}`, asked);
        const status = page.status;
        const body = page.text;
        // What is not the top keeps search engines out by itself, where a site has no word for them.
        if (asked === '/robots.txt' && !from.has('robots.txt')) {
          assert.equal(body, 'User-agent: *\nDisallow: /\n');
          continue;
        }
        const said =
          status === 308
            ? `308 ${page.headers.location}`
            : `${status} ${body.startsWith('<!doctype html>') ? '-' : [...from].find(([, file]) => file === body)?.[0]}`;
        assert.equal(said, expected, `${name} ${asked}`);
      }
    }),
  );
});
