import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test from 'node:test';
import { execa } from 'execa';
import { readApiConfig } from '../base/config.ts';
import { mirror } from './repository-elsewhere.ts';
import { repository } from './repository-for-tests.ts';

test('a mirror follows what moved, what is new and what is gone, whatever names stand in each other’s way', async (t) => {
  const there = await repository(t);
  const state = mkdtempSync(join(tmpdir(), 'vaquero-mirror-'));
  t.after(() => rmSync(state, { recursive: true, force: true }));
  const here = join(state, 'mirror.git');
  await execa('git', ['init', '--quiet', '--bare', here]);
  const config = readApiConfig({
    VAQUERO_STATE: state,
    VAQUERO_DATABASE_URL: 'mariadb://a:b@127.0.0.1:9/c',
    VAQUERO_RUNNER_TOKEN: 'runner-token-of-the-tests',
    VAQUERO_EDGE_TOKEN: 'edge-token-of-the-tests-',
    VAQUERO_REPOSITORY_ROOTS: tmpdir(),
  });
  const refsIn = async (directory: string): Promise<string> =>
    (await execa('git', ['for-each-ref', '--format=%(objectname) %(refname)'], { cwd: directory }))
      .stdout;
  const follow = async (says: string): Promise<void> => {
    await mirror(config, here, there.folder);
    assert.equal(await refsIn(here), await refsIn(there.folder), says);
  };
  await there.commit('One');
  await there.git('branch', 'quay');
  await there.git('tag', '--annotate', '--message', 'x', 'v1');
  await follow('the first time');
  await follow('nothing moved');
  await there.commit('Two');
  await there.git('branch', 'pier/north');
  await follow('one moved, one is new');
  await there.git('branch', '--delete', '--force', 'quay');
  await there.git('branch', 'quay/east');
  await there.git('tag', '--force', 'v1', 'HEAD~1');
  await follow('a name became a folder, a tag was moved');
  await there.git('branch', '--delete', '--force', 'quay/east', 'pier/north');
  await there.git('branch', 'pier');
  for (let n = 0; n < 120; n += 1) await there.git('update-ref', `refs/heads/many-${n}`, 'HEAD');
  await follow('more than are named one by one');
  await there.git('checkout', '--quiet', '--orphan', 'anew');
  await there.commit('Written anew');
  await there.git('branch', '--force', 'main', 'anew');
  await follow('a history that was written anew');
});
