import assert from 'node:assert/strict';
import { chmodSync, mkdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { repository } from './repository-for-tests.ts';
import { treeChanges } from './tree-changes.ts';

const inWords = (changes: Awaited<ReturnType<typeof treeChanges>>) =>
  changes === null
    ? null
    : [
        ...changes.written.map(
          ({ path, kind, bytes }) => `${kind} ${path} ${Buffer.from(bytes, 'base64').toString()}`,
        ),
        ...changes.removed.map((path) => `gone ${path}`),
      ];

test('what differs between two trees comes with its contents and kinds, whatever the names', async (t) => {
  const { folder, directory, commit } = await repository(t);
  writeFileSync(join(folder, 'same.txt'), 'same');
  writeFileSync(join(folder, 'old.txt'), 'old');
  writeFileSync(join(folder, 'place'), 'a file');
  const first = await commit();
  rmSync(join(folder, 'old.txt'));
  rmSync(join(folder, 'place'));
  mkdirSync(join(folder, 'place'));
  writeFileSync(join(folder, 'place', 'with space and ä.txt'), 'in a folder');
  writeFileSync(join(folder, 'run.sh'), '#!/bin/sh\n');
  chmodSync(join(folder, 'run.sh'), 0o755);
  symlinkSync('same.txt', join(folder, 'link'));
  writeFileSync(join(folder, 'bytes.bin'), Buffer.from([0, 255, 10, 0]));
  const second = await commit();
  const changes = await treeChanges(directory, first, second, []);
  const binary = changes?.written.find((one) => one.path === 'bytes.bin');
  assert.equal(binary?.bytes, Buffer.from([0, 255, 10, 0]).toString('base64'));
  assert.deepEqual(
    inWords(changes)?.filter((row) => !row.includes('bytes.bin')),
    [
      'link link same.txt',
      'file place/with space and ä.txt in a folder',
      'executable run.sh #!/bin/sh\n',
      'gone old.txt',
      'gone place',
    ],
  );
  // A name with a control character has no honest path here: the whole tree is fetched instead.
  writeFileSync(join(folder, 'a\tb.txt'), 'x');
  assert.equal(await treeChanges(directory, second, await commit(), []), null);
});

test('folders are told apart by the paths that are seen', async (t) => {
  const { folder, directory, commit } = await repository(t);
  for (const name of ['desk', 'signs', 'shared']) {
    mkdirSync(join(folder, name));
    writeFileSync(join(folder, name, 'page.html'), 'one');
  }
  const first = await commit();
  for (const name of ['desk', 'signs', 'shared'])
    writeFileSync(join(folder, name, 'page.html'), `two ${name}`);
  rmSync(join(folder, 'shared'), { recursive: true });
  const second = await commit();
  assert.deepEqual(inWords(await treeChanges(directory, first, second, ['desk', 'shared'])), [
    'file desk/page.html two desk',
    'gone shared/page.html',
  ]);
  assert.deepEqual(inWords(await treeChanges(directory, second, second, [])), []);
});

test('the whole tree is the answer where changes alone are none', async (t) => {
  const { folder, directory, git, commit } = await repository(t);
  writeFileSync(join(folder, 'a.txt'), 'a');
  const first = await commit();
  assert.equal(await treeChanges(directory, 'f'.repeat(40), first, []), null);
  // Very many paths, very many bytes, and a submodule.
  for (let number = 0; number < 600; number += 1)
    writeFileSync(join(folder, `${number}.txt`), String(number));
  const many = await commit();
  assert.equal(await treeChanges(directory, first, many, []), null);
  writeFileSync(join(folder, 'large.bin'), Buffer.alloc(9 << 20));
  const large = await commit();
  assert.equal(await treeChanges(directory, many, large, []), null);
  await git('update-index', '--add', '--cacheinfo', `160000,${first},vendor/lines`);
  await git('commit', '--quiet', '--message', 'a submodule');
  const linked = await git('rev-parse', 'HEAD');
  assert.equal(await treeChanges(directory, large, linked, []), null);
});
