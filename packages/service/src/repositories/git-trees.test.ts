import assert from 'node:assert/strict';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test from 'node:test';
import { execa } from 'execa';
import { OutsideFailure } from '../base/refused.ts';
import { commitFacts } from './bare-repository.ts';
import { differences, treeFilesIn } from './git-trees.ts';
import { objectsOf } from './object-reader.ts';
import { repository } from './repository-for-tests.ts';

/** Numbers that look random and are the same each time. */
function dice(seed: number): (sides: number) => number {
  let state = seed;
  return (sides) => {
    state = (state * 1_103_515_245 + 12_345) % 2_147_483_648;
    return Math.floor((state / 2_147_483_648) * sides);
  };
}

/** Names whose order as bytes, as folders and as text differ. */
const names = ['a', 'a.b', 'a-b', 'a0', 'ä', 'Z', 'ab', 'with space', 'x"y', '😀'];

/** Writes, replaces and removes files, links and folders anywhere in a tree. */
function shake(folder: string, roll: (sides: number) => number): void {
  for (let turn = 0; turn < 12; turn += 1) {
    const parts = Array.from({ length: 1 + roll(3) }, () => names[roll(names.length)] ?? 'a');
    const path = join(folder, ...parts);
    // Whatever stands on the way as a file gives way to a folder.
    for (let depth = 1; depth < parts.length; depth += 1) {
      const on = join(folder, ...parts.slice(0, depth));
      try {
        mkdirSync(on, { recursive: true });
      } catch {
        rmSync(on, { recursive: true, force: true });
        mkdirSync(on);
      }
    }
    rmSync(path, { recursive: true, force: true });
    const act = roll(5);
    if (act === 0) continue;
    if (act === 1) symlinkSync(`../to-${roll(9)}`, path);
    else writeFileSync(path, `words ${roll(50)}`);
    if (act === 2) chmodSync(path, 0o755);
  }
}

test('trees and what differs between them are read as Git itself reads them', async (t) => {
  const { folder, directory, git, commit } = await repository(t);
  const roll = dice(7);
  const commits: string[] = [];
  for (let round = 0; round < 12; round += 1) {
    shake(folder, roll);
    commits.push(await commit());
  }
  // A submodule, and objects in a pack instead of files of their own.
  await git('update-index', '--add', '--cacheinfo', `160000,${commits[0]},vendor/lines`);
  await git('commit', '--quiet', '--message', 'a submodule');
  commits.push(await git('rev-parse', 'HEAD'));
  await git('repack', '-adq');
  for (const paths of [[], ['a'], ['ä', 'with space'], ['a/ab', 'vendor'], ['nowhere']]) {
    for (const [place, to] of commits.entries()) {
      const listed = await git('--literal-pathspecs', 'ls-tree', '-rz', to, '--', ...paths);
      assert.deepEqual(
        (await treeFilesIn(directory, to, paths)).map(
          ({ path, mode, object }) => `${mode} ${object} ${path}`,
        ),
        listed
          .split('\0')
          .filter((row) => row !== '')
          .map((row) => row.replace(/^(\d+) \w+ (\w+)\t/, '$1 $2 ')),
        `${to} at ${paths.join()}`,
      );
      const from = commits[(place * 5) % commits.length] ?? to;
      const raw = (
        await git(
          '--literal-pathspecs',
          ...[
            'diff-tree',
            '-r',
            '-z',
            '--raw',
            '--no-renames',
            '--no-abbrev',
            from,
            to,
            '--',
            ...paths,
          ],
        )
      ).split('\0');
      const rows = Array.from({ length: (raw.length - 1) / 2 }, (_, at) => {
        const [before = '', after = '', was, is] = (raw[at * 2] ?? '').slice(1).split(' ');
        return `${before} ${was} ${after} ${is} ${raw[at * 2 + 1]}`;
      });
      const none = `000000 ${'0'.repeat(40)}`;
      const found = await differences(directory, from, to, paths, 1000);
      assert.deepEqual(
        found?.map(({ path, before, after }) =>
          [before, after]
            .map((one) => (one === null ? none : `${one.mode} ${one.object}`))
            .concat(path)
            .join(' '),
        ),
        rows.sort((a, b) => (pathOf(a) < pathOf(b) ? -1 : 1)),
      );
    }
  }
});

const pathOf = (row: string): string => row.split(' ').slice(4).join(' ');

test('a commit says its subject, author and time, whatever its encoding and however many its lines', async (t) => {
  const { directory, git, commit } = await repository(t);
  const facts = async (id: string) => {
    const { subject, author, at, tree } = await commitFacts(directory, id as never);
    assert.equal(tree, await git('rev-parse', `${id}^{tree}`));
    return { subject, author, at };
  };
  const at = 1_790_000_000_000;
  assert.deepEqual(await facts(await commit('Winter times\nof all quays\n\nand more <words>')), {
    subject: 'Winter times of all quays',
    author: 'Wren K',
    at,
  });
  await git('config', 'i18n.commitEncoding', 'ISO-8859-1');
  await execa('git', ['commit', '--quiet', '--allow-empty', '--file=-'], {
    cwd: join(directory, '..'),
    input: Buffer.from('F\xe4hre', 'latin1'),
    env: {
      GIT_AUTHOR_NAME: 'J',
      GIT_AUTHOR_EMAIL: 'j@kettle.example',
      GIT_COMMITTER_NAME: 'J',
      GIT_COMMITTER_EMAIL: 'j@kettle.example',
      GIT_COMMITTER_DATE: '1790000000 +0200',
    },
  });
  assert.deepEqual(await facts(await git('rev-parse', 'HEAD')), {
    subject: 'Fähre',
    author: 'J',
    at,
  });
});

test('questions asked at once are answered each with its own, and what is absent, too large or a forged name with nothing', async (t) => {
  const { folder, directory, commit } = await repository(t);
  for (let number = 0; number < 40; number += 1)
    writeFileSync(join(folder, `${number}.txt`), `${number}`.repeat(number * 977));
  const head = await commit();
  const objects = objectsOf(directory);
  const all = await Promise.all(
    Array.from({ length: 80 }, (_, number) => objects.contents(`${head}:${number}.txt`, 70_000)),
  );
  for (const [number, bytes] of all.entries())
    assert.equal(
      bytes?.toString() ?? null,
      number < 40 && `${number}`.length * number * 977 <= 70_000
        ? `${number}`.repeat(number * 977)
        : null,
    );
  assert.equal(await objects.info(`${head}:1.txt\ninfo ${head}:2.txt`), null);
  assert.equal(await objects.info(`${head}:1.txt\0contents ${head}:2.txt`), null);
  // What comes later is seen, also by a process that began before it.
  writeFileSync(join(folder, 'late.txt'), 'late');
  const later = await commit();
  assert.equal((await objects.contents(`${later}:late.txt`, 10))?.toString(), 'late');
});

test('a repository that is not there says so, and is read once it is', async (t) => {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-none-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  await assert.rejects(objectsOf(folder).info('HEAD'), OutsideFailure);
  await assert.rejects(objectsOf(join(folder, 'gone')).info('HEAD'), OutsideFailure);
  await execa('git', ['init', '--quiet', '--bare'], { cwd: folder });
  assert.equal(await objectsOf(folder).info('f'.repeat(40)), null);
  await assert.rejects(treeFilesIn(folder, 'f'.repeat(40), []), OutsideFailure);
});
