import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';
import { sailingsOf } from '../src/sailings.js';

const read = (name) => JSON.parse(readFileSync(`data/${name}.json`, 'utf8'));
const harbours = read('harbours');
const routes = read('routes');

test('every route joins two harbours that exist', () => {
  const known = new Set(harbours.map((harbour) => harbour.id));
  for (const { from, to } of routes)
    assert.ok(known.has(from) && known.has(to), `${from} to ${to}: no such harbour`);
});

test('sailings stand in the order they leave', () => {
  const times = sailingsOf(routes, harbours).map((sailing) => sailing.leaves);
  assert.deepEqual(times, times.toSorted());
});

test('a child pays less than an adult', () => {
  const { adult, child } = read('fares');
  assert.ok(child < adult);
});
