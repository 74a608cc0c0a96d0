import assert from 'node:assert/strict';
import test from 'node:test';
import { waitMs } from './loop.ts';

test('a loop waits its own time, after failures longer up to half a minute, and a slow one never less than that', () => {
  assert.equal(waitMs(1000, 0, 0), 1000);
  assert.equal(waitMs(1000, 0, 1), 1200);
  assert.equal(waitMs(1000, 3, 0), 8000);
  assert.equal(waitMs(1000, 40, 0), 30_000);
  for (const hour of [600_000, 3_600_000])
    for (const failures of [0, 1, 40]) assert.equal(waitMs(hour, failures, 0), hour);
});
