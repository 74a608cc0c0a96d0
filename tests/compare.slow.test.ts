import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { comparisonRoutes, pullRequestRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

const page = (nav: string, text: string) =>
  `<!doctype html><title>Ferry</title><nav>${nav}</nav><p>${text}</p>\n`;

test('what two builds hold is compared: pages by their words, files, sizes, rules and findings', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const copies = recipeOf('cp -r site out');
  await made.push('One', {
    'vaquero.yaml': copies,
    'site/index.html': page('Timetable Fares', 'Next from Lune Quay 14:40 Far Holm'),
    'site/fares.html': page('Timetable Fares', 'Adults 4.20'),
    'site/map.html': page('Timetable Fares', 'A map <a href="gone.html">of it</a>'),
    'site/old-name.txt': 'low water\n',
    'site/left.txt': 'left',
    'site/large.html': page('', `<p>${'1'.repeat(600_000)}</p>`),
  });
  await made.copy.git('checkout', '--quiet', '-b', 'try/text');
  await made.copy.git('mv', 'site/old-name.txt', 'site/new-name.txt');
  await made.copy.git('rm', '--quiet', 'site/left.txt');
  await made.copy.commit('Two', {
    'vaquero.yaml': copies.replace('site: out', 'site: out\n  moved: {/a: /fares}'),
    'site/index.html': page('Timetable Fares Text', 'Next from Lune Quay 14:45 Far Holm'),
    'site/fares.html': page('Timetable Fares Text', 'Adults 4.20'),
    'site/map.html': page('Timetable Fares Text', 'A map of it'),
    'site/text.html': page('Timetable Fares Text', `Departures${'.'.repeat(5_000)}`),
    'site/large.html': page('', `<p>${'2'.repeat(600_000)}</p>`),
  });
  await made.copy.git('push', '--quiet', made.remote, 'try/text');
  await vaquero('open-pull-request', project, 'try/text');
  await service.buildEnded(project, 2);

  const pull = await service.operator.call(pullRequestRoutes.showPullRequestRoute, {
    params: { ...params, pullRequest: 'pr-1' },
  });
  assert.deepEqual(pull.compares, { environment: 'staging', before: 1, after: 2 });
  const compare = (before: number, after: number) =>
    service.operator.call(comparisonRoutes.compareRoute, { params, query: { before, after } });
  const told = await compare(1, 2);
  assert.deepEqual(told.counts, { added: 1, changed: 4, removed: 1, renamed: 1 });
  assert.deepEqual(
    told.files.map(({ path, how, from }) => [path, how, from]),
    [
      ['fares.html', 'changed', null],
      ['index.html', 'changed', null],
      ['large.html', 'changed', null],
      ['left.txt', 'removed', null],
      ['map.html', 'changed', null],
      ['new-name.txt', 'renamed', 'old-name.txt'],
      ['text.html', 'added', null],
    ],
  );
  assert.deepEqual(told.answers, ['moved']);
  assert.deepEqual(
    told.findings.gone.map(({ path, message }) => `${path} ${message}`),
    ['map.html refers to gone.html, which is not there'],
  );
  assert.deepEqual(
    told.pages.map(({ path, how }) => [path, how]),
    [
      ['index.html', 'changed'],
      ['text.html', 'added'],
    ],
  );
  // Of what is too long its beginning is told, and what is too large is not read.
  const [departures] = told.pages[1]?.lines.slice(-1) ?? [];
  assert.ok(departures?.is === 'added' && departures.text.length < 1_010);
  assert.equal(told.pageCounts.unread, 1);
  const said = await vaquero('compare', project, 'pr-1');
  assert.match(said.out, /^unread +1 of the changed pages/m);
  assert.match(
    said.out,
    /^ {2}- Next from Lune Quay 14:40 Far Holm\n {2}\+ Next from Lune Quay 14:45/m,
  );
  assert.match(said.out, /^every page {3}on 3 pages\n.*Timetable Fares( Text)?$/m);
  assert.match(said.out, /^renamed +new-name\.txt, before old-name\.txt, \+0 bytes$/m);

  // Members say what they think of what they looked at; a new commit is looked at anew.
  const wren = await service.person('wren', 'reader', project);
  const verdict = (commit: string, says: string) =>
    wren.client.call(pullRequestRoutes.giveVerdictRoute, {
      params: { ...params, pullRequest: 'pr-1' },
      body: { commit: commit as never, verdict: 'not-yet', says },
    });
  const head = pull.head?.commit ?? '';
  await verdict(head, 'The columns are too narrow.');
  const again = await verdict(head, 'The columns are still too narrow.');
  assert.deepEqual(
    again.verdicts.map(({ name, verdict: said, says, isOfHead }) => [name, said, says, isOfHead]),
    [['wren', 'not-yet', 'The columns are still too narrow.', true]],
  );
  assert.equal((await refusalOf(verdict('f'.repeat(40), ''))).code, 'pull-request-moved');
  const right = await vaquero('verdict', project, 'pr-1', 'looks-right');
  assert.match(right.out, /^verdict +ines: looks right, 20/m);
  assert.equal((await vaquero('verdict', project, 'pr-1', 'fine')).code, 2);
  await made.copy.commit('Wider', { 'site/text.html': page('Timetable Fares Text', 'Wider') });
  await made.copy.git('push', '--quiet', made.remote, 'try/text');
  await until('the new commit is the head', async () => {
    const now = await vaquero('pull-request', project, 'pr-1');
    return new RegExp(
      `^verdict +wren: not yet.*of ${head.slice(0, 12)}, a commit before$`,
      'm',
    ).test(now.out);
  });

  // Nothing differs from itself; what no artifact came of is not compared; outsiders of the project see nothing.
  assert.deepEqual((await compare(2, 2)).counts, { added: 0, changed: 0, removed: 0, renamed: 0 });
  assert.match((await vaquero('compare', project, '1', '1')).out, /the same, byte for byte/);
  assert.equal((await refusalOf(compare(1, 9))).code, 'not-found');
  assert.equal((await vaquero('compare', project, '1')).code, 2);
});
