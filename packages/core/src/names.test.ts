import assert from 'node:assert/strict';
import test from 'node:test';
import { freeNamesNear, readProjectName } from './projects/project-name.ts';
import { movedRefs } from './refs/moved-refs.ts';
import type { CommitId, RefName } from './refs/ref-name.ts';
import { branchOf, readCommitId, readRefName, refOfBranch } from './refs/ref-name.ts';

test('a project name is a host label that leaves room, and not one that means something else', () => {
  for (const good of ['timetable', 'ticket-desk', 'a1', 'harbour-signs-2'])
    assert.ok(readProjectName(good).ok, good);
  for (const bad of [
    '',
    'a',
    'A',
    'Timetable',
    '-a',
    'a-',
    'a--b',
    '1a',
    'a.b',
    'a_b',
    'x'.repeat(41),
    'artifacts',
    'git',
    'ünder',
  ]) {
    const read = readProjectName(bad);
    assert.equal(read.ok, false, bad);
  }
});

test('names offered for a taken one are free and good', () => {
  const taken = new Set(['timetable', 'timetable-site']);
  const free = freeNamesNear('timetable', taken);
  assert.equal(free.length, 3);
  for (const name of free) assert.ok(readProjectName(name).ok && !taken.has(name), name);
});

test('a ref name is read as git would take it', () => {
  for (const good of [
    'refs/heads/main',
    'refs/heads/try/quay-map',
    'refs/tags/v1.2',
    'refs/heads/ä',
  ])
    assert.equal(readRefName(good), good);
  for (const bad of [
    'main',
    'refs/heads',
    'refs/heads/',
    'refs/heads//a',
    'refs/heads/a..b',
    'refs/heads/a b',
    'refs/heads/a~1',
    'refs/heads/.a',
    'refs/heads/a.lock',
    'refs/heads/a.',
    'refs/heads/a@{b',
    'refs/heads/a\n',
    `refs/heads/${'x'.repeat(255)}`,
  ]) {
    assert.equal(readRefName(bad), undefined, bad);
  }
  assert.equal(branchOf('refs/heads/try/a' as RefName), 'try/a');
  assert.equal(branchOf('refs/tags/v1' as RefName), undefined);
  assert.equal(refOfBranch('a b'), undefined);
});

test('commit ids have room for both hashes', () => {
  assert.equal(readCommitId('a'.repeat(40)), 'a'.repeat(40));
  assert.equal(readCommitId('a'.repeat(64)), 'a'.repeat(64));
  for (const bad of ['a'.repeat(39), 'A'.repeat(40), 'HEAD', ''])
    assert.equal(readCommitId(bad), undefined);
});

test('a look tells what appeared, moved and vanished', () => {
  const id = (letter: string): CommitId => letter.repeat(40) as CommitId;
  const ref = (name: string): RefName => `refs/heads/${name}` as RefName;
  const known = new Map([
    [ref('a'), id('1')],
    [ref('b'), id('2')],
    [ref('c'), id('3')],
  ]);
  const seen = new Map([
    [ref('a'), id('1')],
    [ref('b'), id('4')],
    [ref('d'), id('5')],
  ]);
  assert.deepEqual(movedRefs(known, seen), [
    { ref: ref('b'), from: id('2'), to: id('4') },
    { ref: ref('c'), from: id('3'), to: null },
    { ref: ref('d'), from: null, to: id('5') },
  ]);
});
