import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import {
  linkSync,
  mkdirSync,
  mkdtempSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { bytesIn } from './measure-folder.ts';

function place(t: TestContext): string {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-measure-'));
  t.after(() => execFileSync('rm', ['-rf', '--', folder]));
  return folder;
}
const enough = 1 << 30;

test('what lies below the longest path there is counts all the same', async (t) => {
  const folder = place(t);
  const make =
    'for (1 .. 40) { my $d = "d" x 200; mkdir $d; chdir $d or die } open F, ">", "big"; print F "x" x 3e6;';
  execFileSync('perl', ['-e', make], { cwd: folder });
  const bytes = await bytesIn(folder, enough);
  assert.ok(bytes >= 3_000_000 && bytes < 4_000_000, String(bytes));
});

test('deeper than any honest folder counts without end', async (t) => {
  const folder = place(t);
  execFileSync('perl', ['-e', 'for (1 .. 1500) { mkdir "d"; chdir "d" or die }'], { cwd: folder });
  assert.equal(await bytesIn(folder, enough), Number.POSITIVE_INFINITY);
});

test('lengths count, names count, a second name counts once, and links lead nowhere', async (t) => {
  const folder = place(t);
  writeFileSync(join(folder, 'sparse'), '');
  truncateSync(join(folder, 'sparse'), 1 << 20);
  linkSync(join(folder, 'sparse'), join(folder, 'again'));
  symlinkSync('/usr', join(folder, 'away'));
  mkdirSync(join(folder, 'left out'));
  writeFileSync(join(folder, 'left out/file'), Buffer.alloc(1 << 20));
  mkdirSync(join(folder, 'empty'));
  const bytes = await bytesIn(folder, enough, [join(folder, 'left out')]);
  assert.equal(bytes, (1 << 20) + 3 * 1024);
  assert.ok((await bytesIn(folder, 2000)) <= (1 << 20) + 2048);
  assert.equal(await bytesIn(join(folder, 'gone'), enough), 0);
});
