import assert from 'node:assert/strict';
import test from 'node:test';
import { setImmediate as turn } from 'node:timers/promises';
import type { EdgeOrder } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import { makeEdgeStreams } from './edge-streams.ts';
import type { TableOrder } from './routing-table.ts';

const artifact = 'a'.repeat(64) as Digest;
const tableOf = (revision: number): TableOrder => ({
  order: 'table',
  table: {
    revision,
    hosts: {},
    artifactsBase: 'artifacts.localhost:1',
    admission: null,
    ended: {},
    moved: { hosts: {}, projects: {} },
  },
  lookKey: 'k',
});

/** An edge that keeps what it is told, and answers preparations as it is asked to. */
function edge(
  edges: ReturnType<typeof makeEdgeStreams>,
  name: string,
  knows: number | null = null,
) {
  const told: EdgeOrder[] = [];
  const stream = edges.join({
    name,
    instance: `${name} 1`,
    revision: 0,
    knows,
    send: (order) => told.push(order),
  });
  const asked = (): string[] =>
    told.flatMap((order) => (order.order === 'prepare' ? [order.id] : []));
  const tables = (): number[] =>
    told.flatMap((order) => (order.order === 'table' ? [order.table.revision] : []));
  return {
    ...stream,
    asked,
    tables,
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

test('an edge knows what it was told last, by this stream or one before; one that takes no changes knows nothing', () => {
  const edges = makeEdgeStreams();
  edge(edges, 'quay');
  const pier = edge(edges, 'pier', 4);
  const stands = () => edges.connected().map(({ told, knows }) => [told, knows]);
  assert.deepEqual(stands(), [
    [-1, -1],
    [-1, 4],
  ]);
  const [first, second] = edges.connected();
  assert.ok(first !== undefined && second !== undefined);
  edges.tell([first, second], tableOf(5));
  assert.deepEqual(stands(), [
    [5, -1],
    [5, 5],
  ]);
  // One that went away meanwhile is told nothing, and neither is what has joined under its name.
  pier.leave();
  const again = edge(edges, 'pier', 5);
  edges.tell([second], tableOf(6));
  assert.deepEqual([pier.tables(), again.tables()], [[5], []]);
});

test('tables are told one at a time, and whoever asks meanwhile is told of a later one', async () => {
  const edges = makeEdgeStreams();
  const ends: ((revision: number) => void)[] = [];
  const telling = () => new Promise<number>((resolve) => ends.push(resolve));
  const [one, two, three] = [telling, telling, telling].map((each) => edges.publish(each));
  assert.equal(ends.length, 1);
  ends[0]?.(7);
  assert.equal(await one, 7);
  await turn();
  assert.equal(ends.length, 2);
  ends[1]?.(9);
  assert.deepEqual(await Promise.all([two, three]), [9, 9]);
});

test('each edge is asked whether it has all of an artifact, and says what it lacks or nothing at all', async () => {
  const edges = makeEdgeStreams();
  const newId = ids();
  assert.deepEqual(await edges.prepare(artifact, newId, 5_000), []);
  const [quay, pier] = [edge(edges, 'quay'), edge(edges, 'pier')];
  const first = edges.prepare(artifact, newId, 5_000);
  quay.say('p1', null);
  pier.say('p1', 'index.html is not in its store');
  assert.deepEqual(
    (await first).map((answer) => [answer.edge, answer.problem, answer.silent]),
    [
      ['quay', null, false],
      ['pier', 'index.html is not in its store', false],
    ],
  );
  const second = edges.prepare('b'.repeat(64) as Digest, newId, 1);
  assert.deepEqual([quay.asked().length, pier.asked().length], [2, 2]);
  assert.ok((await second).every((answer) => answer.silent));
});
