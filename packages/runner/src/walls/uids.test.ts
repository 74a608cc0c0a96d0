import assert from 'node:assert/strict';
import {
  chownSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { openUids } from './uids.ts';

const skip = process.getuid?.() === 0 ? false : 'only root gives builds uids of their own';
const base = 20_000_000 + (process.pid % 4000) * 100;

async function place(t: TestContext, first = base, count = 8) {
  const state = mkdtempSync(join(tmpdir(), 'vaquero-uids-'));
  t.after(() => rmSync(state, { recursive: true, force: true }));
  const range = { first, last: first + count - 1 };
  const open = async (at = state) => {
    const uids = await openUids(range, 2, at);
    t.after(uids.stop);
    return uids;
  };
  return { state, range, open, uids: await open() };
}
const key = (project: string, circle = '', slot = 0) => ({ project, circle, slot });

test('each project, circle and slot has a uid of its own, and keeps it over a restart', {
  skip,
}, async (t) => {
  const { state, range, uids, open } = await place(t);
  const keys = [key('timetable'), key('desk'), key('timetable', 'pr-4'), key('timetable', '', 1)];
  const own = await Promise.all(keys.map(async (one) => (await uids.hold(one)).uid));
  assert.equal(new Set(own).size, 4);
  // The first two are given to no build.
  assert.ok(own.every((uid) => uid >= range.first + 2 && uid <= range.last));
  uids.stop();
  const again = await open();
  assert.deepEqual(
    await Promise.all(keys.toReversed().map(async (one) => (await again.hold(one)).uid)),
    own.toReversed(),
  );
  assert.deepEqual([...again.given()].sort(), [...own].sort());
  assert.equal(statSync(join(state, 'slots', 'uids.json')).mode & 0o777, 0o600);
});

test('a uid is used again only when nothing of it is left', { skip }, async (t) => {
  const { state, range, uids } = await place(t, base + 10);
  const most = range.last - range.first - 1;
  const held = [];
  for (let n = 0; n < most; n += 1) held.push(await uids.hold(key(`p${n}`)));
  await assert.rejects(uids.hold(key('one-more')), /widen VAQUERO_RUNNER_UIDS/);
  const [first, second, third] = held;
  for (const one of [first, second, third]) one?.release();
  mkdirSync(join(state, 'caches'));
  writeFileSync(join(state, 'caches', 'left'), 'x');
  chownSync(join(state, 'caches', 'left'), first?.uid ?? 0, 0);
  // The longest unused one owns a file still: the next takes its place.
  assert.equal((await uids.hold(key('one-more'))).uid, second?.uid);
  rmSync(join(state, 'caches', 'left'));
  assert.equal((await uids.hold(key('another'))).uid, first?.uid);
  assert.ok(readFileSync(join(state, 'slots', 'uids.json'), 'utf8').includes('another'));
});

test('uids that another installation uses are refused by name, and free once it has ended', {
  skip,
}, async (t) => {
  const { state, uids, open } = await place(t, base + 30);
  const other = mkdtempSync(join(tmpdir(), 'vaquero-uids-'));
  t.after(() => rmSync(other, { recursive: true, force: true }));
  await assert.rejects(
    openUids({ first: base + 36, last: base + 45 }, 1, other),
    new RegExp(
      `use: another installation .* under ${base + 30}-${base + 37}\\..*VAQUERO_RUNNER_UIDS=${base + 46}-`,
    ),
  );
  const beside = await openUids({ first: base + 40, last: base + 49 }, 1, other);
  beside.stop();
  uids.stop();
  (await open(state)).stop();
});
