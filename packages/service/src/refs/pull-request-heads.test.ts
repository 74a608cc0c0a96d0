import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { CommitId, Instant, RefName } from '@vaquero/core';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { refsOf } from '../repositories/bare-repository.ts';
import { repository } from '../repositories/repository-for-tests.ts';
import { endedOf, headsOf } from './pull-request-heads.ts';

const aPullRequest = (number: number, change: Partial<PullRequestRow> = {}): PullRequestRow => ({
  id: `pull-${number}`,
  number,
  title: 'x',
  into: 'main',
  from: { place: null, branch: 'try' },
  state: 'open',
  isDraft: false,
  head: null,
  personId: 'p',
  openedAt: 0 as Instant,
  endedAt: null,
  trouble: null,
  ...change,
});

/** A repository with a branch that is one commit ahead. */
async function place(t: TestContext) {
  const { folder, directory, git, commit } = await repository(t);
  const write = (text: string): void => writeFileSync(join(folder, 'page.html'), text);
  write('one');
  const main = (await commit('One')) as CommitId;
  await git('checkout', '--quiet', '-b', 'try');
  write('two');
  const tried = (await commit('Two')) as CommitId;
  return { directory, git, commit, write, main, tried };
}

const moved = (...refs: string[]): ReadonlySet<RefName> => new Set(refs as RefName[]);

test('a head follows its branch, and its ref is set in Git', async (t) => {
  const { directory, git, tried } = await place(t);
  const open = [aPullRequest(1), aPullRequest(2, { from: { place: null, branch: 'none' } })];
  const heads = await headsOf(directory, open, await refsOf(directory), true);
  assert.deepEqual([...heads.refs], [['refs/proposed/1', tried]]);
  assert.equal(await git('rev-parse', 'refs/proposed/1'), tried);
  assert.deepEqual(
    heads.gone.map((pull) => pull.number),
    [2],
  );
  // What a push did not name is not known by its look: nothing is gone for it.
  const named = await headsOf(directory, open, new Map(), false);
  assert.deepEqual([named.refs.size, named.gone], [0, []]);
});

test('an outsider’s head is the ref that was fetched, whatever branches of that name are here', async (t) => {
  const { directory, git, main } = await place(t);
  const outsider = aPullRequest(3, { from: { place: '/elsewhere', branch: 'try' } });
  const before = await headsOf(directory, [outsider], await refsOf(directory), true);
  assert.deepEqual([before.refs.size, before.gone], [0, []], 'nothing was fetched yet');
  await git('update-ref', 'refs/proposed/3', main);
  const heads = await headsOf(directory, [outsider], await refsOf(directory), true);
  assert.deepEqual([...heads.refs], [['refs/proposed/3', main]]);
});

test('merged is what is part of its target, however it got there; a squash is not; gone is closed', async (t) => {
  const { directory, git, commit, write, tried } = await place(t);
  const pull = aPullRequest(1, { head: tried });
  const endsWhen = async (...refs: string[]) => {
    const seen = await refsOf(directory);
    const heads = await headsOf(directory, [pull], seen, true);
    const ends = await endedOf(directory, [pull], heads, seen, moved(...refs));
    return ends.map((one) => one.as);
  };
  assert.deepEqual(await endsWhen('refs/heads/try'), [], 'its own branch moved');
  await git('checkout', '--quiet', 'main');
  write('two');
  await commit('The same change as one commit of its own');
  assert.deepEqual(await endsWhen('refs/heads/main'), [], 'a squash has none of its commits');
  await git('merge', '--quiet', '--strategy=ours', '--message', 'Merge', 'try');
  assert.deepEqual(await endsWhen('refs/heads/other'), [], 'its target did not move');
  assert.deepEqual(await endsWhen('refs/heads/main'), ['merged']);
  await git('branch', '--quiet', '-D', 'try');
  assert.deepEqual(await endsWhen(), ['merged'], 'its branch was tidied away after the merge');
  await git('reset', '--quiet', '--hard', 'HEAD~1');
  assert.deepEqual(await endsWhen(), ['closed'], 'its branch is gone, and nothing has its commits');
});
