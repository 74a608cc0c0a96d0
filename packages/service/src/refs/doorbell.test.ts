import assert from 'node:assert/strict';
import test from 'node:test';
import { makeLog } from '../base/log.ts';
import type { Ring } from '../repositories/rings.ts';
import { makeDoorbell } from './doorbell.ts';

const push = (name: string): Ring => ({ kind: 'push', doing: null, refs: [{ name, to: 'c' }] });

/** Looks that end when they are told to. */
function looks() {
  const begun: { readonly ring: Ring; readonly end: () => void; readonly fail: () => void }[] = [];
  const look = (_: string, ring: Ring): Promise<void> =>
    new Promise((resolve, reject) =>
      begun.push({ ring, end: resolve, fail: () => reject(new Error('Git is away')) }),
    );
  return { begun, look };
}

const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

test('one look runs and one waits; the one that waits looks at all when two of them rang for it', async () => {
  const { begun, look } = looks();
  const doorbell = makeDoorbell(makeLog('test', 'fatal'), look);
  const rings = ['a', 'b', 'c'].map((name) => doorbell.ringAndWait('one', push(name)));
  const other = doorbell.ringAndWait('two', push('z'));
  assert.equal(begun.length, 2, 'another repository waits for nobody');
  begun[0]?.end();
  await rings[0];
  await turn();
  assert.deepEqual(
    begun.map(({ ring }) => ring.refs?.[0]?.name ?? 'all'),
    ['a', 'z', 'all'],
  );
  for (const one of begun.slice(1)) one.end();
  await Promise.all([...rings, other]);
  // Nobody else rang meanwhile: the next look is at what its push named alone.
  const alone = doorbell.ringAndWait('one', push('d'));
  assert.equal(begun[3]?.ring.refs?.[0]?.name, 'd');
  begun[3]?.end();
  await alone;
});

test('a look that fails is heard of by whoever waits for it, and by nobody after', async () => {
  const { begun, look } = looks();
  const doorbell = makeDoorbell(makeLog('test', 'fatal'), look);
  const [first, second] = [
    doorbell.ringAndWait('one', push('a')),
    doorbell.ringAndWait('one', push('b')),
  ];
  begun[0]?.fail();
  await assert.rejects(first, /Git is away/);
  await turn();
  assert.equal(begun[1]?.ring.refs?.[0]?.name, 'b', 'one alone keeps its words');
  begun[1]?.end();
  await second;
  await doorbell.stop();
  await doorbell.ringAndWait('one', push('c'));
  assert.equal(begun.length, 2, 'a bell that was stopped rings no more');
});
