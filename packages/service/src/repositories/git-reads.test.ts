import assert from 'node:assert/strict';
import { mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { execa } from 'execa';
import { makeGitReads } from './git-reads.ts';

async function repository(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-reads-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const git = async (...args: string[]): Promise<string> =>
    (
      await execa('git', ['-c', 'user.name=w', '-c', 'user.email=w@kettle.example', ...args], {
        cwd: folder,
        env: { GIT_CONFIG_GLOBAL: '/dev/null', GIT_CONFIG_NOSYSTEM: '1' },
      })
    ).stdout;
  await git('init', '--quiet');
  const commit = async (words: string): Promise<string> => {
    writeFileSync(join(folder, 'words.txt'), words);
    await git('add', '--all');
    await git('commit', '--quiet', '--message', words);
    return git('rev-parse', 'HEAD');
  };
  return { folder, directory: join(folder, '.git'), commit };
}

test('a tree that was read is read once, also by those who ask at the same time', async (t) => {
  const { folder, directory, commit } = await repository(t);
  const [one, two] = [await commit('one'), await commit('two')];
  const reads = makeGitReads();
  const files = reads.treeFiles(directory, one, []);
  assert.equal(reads.treeFiles(directory, one, []), files);
  assert.deepEqual(
    (await files).map((file) => file.path),
    ['words.txt'],
  );
  const changes = await reads.changes(directory, one, two, []);
  assert.deepEqual(
    changes?.written.map((file) => file.path),
    ['words.txt'],
  );
  // Git is not asked again: the repository is away, and what was read of it is still known.
  renameSync(join(folder, '.git'), join(folder, 'away'));
  assert.equal(await reads.treeFiles(directory, one, []), await files);
  assert.equal(await reads.changes(directory, one, two, []), changes);
  // Other paths, and another commit, are other readings.
  await assert.rejects(reads.treeFiles(directory, one, ['words.txt']));
  await assert.rejects(reads.treeFiles(directory, two, []));
});

test('what could not be read is read again, and so is a change from a commit that was not known', async (t) => {
  const { folder, directory, commit } = await repository(t);
  const one = await commit('one');
  const reads = makeGitReads();
  renameSync(join(folder, '.git'), join(folder, 'away'));
  await assert.rejects(reads.treeFiles(directory, one, []));
  assert.equal(await reads.changes(directory, one, one, []), null);
  renameSync(join(folder, 'away'), join(folder, '.git'));
  assert.equal((await reads.treeFiles(directory, one, [])).length, 1);
  assert.deepEqual(await reads.changes(directory, one, one, []), { written: [], removed: [] });
});
