import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import test from 'node:test';
import { OutsideFailure } from '../base/refused.ts';
import { branchesSet, pin } from './bare-repository.ts';
import { repository } from './repository-for-tests.ts';
import { listenToPush, packet } from './side-band.ts';

const [zero, one, two] = ['0', '1', '2'].map((digit) => digit.repeat(40));

/** What is understood of a push that comes in pieces of some size. */
async function heard(bytes: Buffer, pieces: number) {
  const { stream, words } = listenToPush();
  for (let at = 0; at < bytes.length; at += pieces) stream.write(bytes.subarray(at, at + pieces));
  stream.end();
  await finished(stream.resume());
  return words();
}

test('the refs of a push are read from its commands, however it comes in pieces', async () => {
  const commands = [
    `${zero} ${one} refs/heads/main\0 report-status side-band-64k push-options`,
    `${one} ${two} refs/heads/tides/ä b\n`,
    `${two} ${zero} refs/tags/v1`,
  ];
  const whole = Buffer.concat([
    ...commands.map(packet),
    Buffer.from('0000'),
    packet('follow\n'),
    Buffer.from('0000PACK'),
  ]);
  for (const pieces of [1, 7, whole.length])
    assert.deepEqual(await heard(whole, pieces), {
      hasSideBand: true,
      options: ['follow'],
      refs: [
        { name: 'refs/heads/main', to: one },
        { name: 'refs/heads/tides/ä b', to: two },
        { name: 'refs/tags/v1', to: zero },
      ],
    });
  // What is no plain list of commands says nothing: all refs are looked at then.
  const shallow = [packet(`shallow ${one}`), packet(commands[0] ?? ''), Buffer.from('0000')];
  assert.equal((await heard(Buffer.concat(shallow), 9)).refs, null);
  assert.equal((await heard(whole.subarray(0, 60), 60)).refs, null, 'cut off before its end');
  assert.equal((await heard(Buffer.from('not git at all'), 5)).refs, null);
});

test('a branch that a push names is believed where Git has it there, and nowhere else', async (t) => {
  const { folder, directory, git, commit } = await repository(t);
  writeFileSync(join(folder, 'tide.txt'), 'low');
  const first = await commit();
  await git('branch', 'winter');
  writeFileSync(join(folder, 'tide.txt'), 'high');
  const second = await commit();
  await git('tag', '-a', 'v1', '-m', 'one');
  const set = async (...refs: readonly (readonly [string, string])[]) => {
    const found = await branchesSet(
      directory,
      refs.map(([name, to]) => ({ name, to })),
    );
    return found && Object.fromEntries(found);
  };
  assert.deepEqual(await set(['refs/heads/main', second], ['refs/heads/winter', first]), {
    'refs/heads/main': second,
    'refs/heads/winter': first,
  });
  for (const doubtful of [
    ['refs/heads/main', first],
    ['refs/heads/gone', first],
    ['refs/heads/main', zero ?? ''],
    ['refs/tags/v1', second],
    ['refs/vaquero/kept/x', second],
    ['refs/heads/winter^{tree}', first],
  ] as const)
    assert.equal(await set(['refs/heads/main', second], doubtful), null, doubtful.join(' '));
  // A branch that moves later is seen where it is then.
  await git('branch', '--force', 'winter', second);
  assert.deepEqual(await set(['refs/heads/winter', second]), { 'refs/heads/winter': second });
});

test('commits are pinned by a process that stays, and a refused pin does not keep the next from being made', async (t) => {
  const { directory, git, commit } = await repository(t);
  const pinned = async () =>
    (await git('for-each-ref', '--format=%(objectname)', 'refs/vaquero/kept')).split('\n');
  const [first, second] = [await commit('one'), await commit('two')];
  await pin(directory, [first as never, first as never]);
  assert.deepEqual(await pinned(), [first]);
  await assert.rejects(pin(directory, [one as never]), OutsideFailure);
  await Promise.all([pin(directory, [second as never]), pin(directory, [first as never])]);
  assert.deepEqual((await pinned()).toSorted(), [first, second].toSorted());
  await pin(directory, []);
});
