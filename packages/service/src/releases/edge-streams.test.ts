import assert from 'node:assert/strict';
import test from 'node:test';
import type { EdgeOrder } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import { makeEdgeStreams } from './edge-streams.ts';

const artifact = 'a'.repeat(64) as Digest;
const tableOf = (revision: number, list: string): EdgeOrder => ({
  order: 'table',
  table: {
    revision,
    hosts: {},
    artifactsBase: 'artifacts.localhost:1',
    admission: null,
    ended: {},
    moved: { hosts: {}, projects: {} },
  },
  artifacts: [{ artifact, project: 'timetable', build: revision, commit: 'c', admits: 'anyone' }],
  list,
  lookKey: 'k',
});

/** An edge that keeps what it is told, and answers preparations as it is asked to. */
function edge(edges: ReturnType<typeof makeEdgeStreams>, name: string, instance = `${name} 1`) {
  const told: EdgeOrder[] = [];
  const stream = edges.join({
    name,
    instance,
    revision: 0,
    knowsChanges: false,
    send: (order) => told.push(order),
  });
  const asked = (): string[] =>
    told.flatMap((order) => (order.order === 'prepare' ? [order.id] : []));
  const lists = (): (number | null)[] =>
    told.flatMap((order) =>
      order.order === 'table' ? [order.artifacts === null ? null : order.artifacts.length] : [],
    );
  return {
    ...stream,
    asked,
    lists,
    say: (id: string, problem: string | null) => edges.answered(name, id, problem),
  };
}

const ids = () => {
  let last = 0;
  return () => {
    last += 1;
    return `p${last}`;
  };
};

test('the list of artifacts goes out once on each stream, and again when it is another', () => {
  const edges = makeEdgeStreams();
  const quay = edge(edges, 'quay');
  edges.broadcast(tableOf(1, 'x'));
  edges.broadcast(tableOf(2, 'x'));
  const pier = edge(edges, 'pier');
  pier.tell(tableOf(2, 'x'));
  edges.broadcast(tableOf(3, 'x'));
  edges.broadcast(tableOf(4, 'y'));
  edges.broadcast(tableOf(5, 'x'));
  assert.deepEqual(quay.lists(), [1, null, null, 1, 1]);
  assert.deepEqual(pier.lists(), [1, null, 1, 1]);
  // A stream that is joined anew knows nothing of the one before.
  quay.leave();
  const again = edge(edges, 'quay');
  edges.broadcast(tableOf(6, 'x'));
  assert.deepEqual(again.lists(), [1]);
});

test('an edge that knows changes is sent a table once, then what is another thing than in the one before', () => {
  const edges = makeEdgeStreams();
  const told: EdgeOrder[] = [];
  const join = () =>
    edges.join({
      name: 'quay',
      instance: 'quay 1',
      revision: 0,
      knowsChanges: true,
      send: (order) => told.push(order),
    });
  const first = join();
  const entry = { project: 'timetable', environment: 'staging' } as never;
  const table = (revision: number, hosts: Record<string, never>, list: string): EdgeOrder => {
    const whole = tableOf(revision, list);
    assert.ok(whole.order === 'table');
    return { ...whole, table: { ...whole.table, hosts } };
  };
  edges.broadcast(table(1, { a: entry, b: entry }, 'x'));
  edges.broadcast(table(2, { a: entry, c: entry }, 'x'));
  edges.broadcast(table(3, { a: entry, c: entry }, 'y'));
  const [whole, moved, built] = told;
  assert.equal(whole?.order, 'table');
  assert.ok(moved?.order === 'changes' && built?.order === 'changes');
  assert.deepEqual(
    [
      moved.from,
      moved.table.revision,
      Object.keys(moved.hosts.set),
      moved.hosts.gone,
      moved.artifacts,
    ],
    [1, 2, ['c'], ['b'], null],
  );
  assert.deepEqual([built.from, built.hosts], [2, { set: {}, gone: [] }]);
  assert.deepEqual(
    [Object.values(built.artifacts?.set ?? {}).map(({ build }) => build), built.artifacts?.gone],
    [[3], [`2 timetable ${artifact}`]],
  );
  first.leave();
  join();
  edges.broadcast(table(4, { a: entry }, 'y'));
  assert.equal(told.at(-1)?.order, 'table');
});

test('an edge that has just said it has all of an artifact is not asked again; one that lacks something is', async () => {
  const edges = makeEdgeStreams();
  const [quay, pier] = [edge(edges, 'quay'), edge(edges, 'pier')];
  const newId = ids();
  const first = edges.prepare(artifact, newId, 5_000);
  quay.say('p1', null);
  pier.say('p1', 'index.html is not in its store');
  assert.deepEqual(
    (await first).map((answer) => [answer.edge, answer.problem]),
    [
      ['quay', null],
      ['pier', 'index.html is not in its store'],
    ],
  );
  const second = edges.prepare(artifact, newId, 5_000);
  assert.deepEqual([quay.asked().length, pier.asked().length], [1, 2]);
  pier.say('p2', null);
  assert.deepEqual(
    new Map((await second).map((answer) => [answer.edge, answer.problem])),
    new Map([
      ['pier', null],
      ['quay', null],
    ]),
  );
  assert.equal((await edges.prepare(artifact, newId, 5_000)).length, 2, 'both, without a question');
  assert.deepEqual([quay.asked().length, pier.asked().length], [1, 2]);
  // Another artifact, and an edge that was started again, are asked.
  const other = edges.prepare('b'.repeat(64) as Digest, newId, 1);
  assert.deepEqual([quay.asked().length, pier.asked().length], [2, 3]);
  assert.ok((await other).every((answer) => answer.silent));
  quay.leave();
  const anew = edge(edges, 'quay', 'quay 2');
  const third = edges.prepare(artifact, newId, 5_000);
  assert.equal(anew.asked().length, 1);
  anew.say(anew.asked()[0] ?? '', null);
  assert.equal((await third).length, 2);
});
