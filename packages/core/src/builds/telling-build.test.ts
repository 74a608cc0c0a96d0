import assert from 'node:assert/strict';
import test from 'node:test';
import { tellingBuild } from './telling-build.ts';

test('a commit stands as its worst recipe does, by the newest build of each', () => {
  const build = (number: number, recipeName: string, state: string, ...rules: string[]) => ({
    number,
    recipeName,
    state,
    rules,
  });
  const telling = (...all: ReturnType<typeof build>[]) => tellingBuild(all)?.number;
  assert.equal(telling(), undefined);
  assert.equal(telling(build(3, 'names', 'passed'), build(2, 'site', 'failed')), 2);
  assert.equal(telling(build(4, 'site', 'passed'), build(2, 'site', 'failed')), 4);
  assert.equal(telling(build(4, 'site', 'running'), build(3, 'names', 'passed')), 4);
  // Environments with other values have builds of their own: neither stands for the other.
  const quay = build(3, 'site', 'failed', 'quay');
  assert.equal(telling(build(4, 'site', 'passed', 'staging'), quay), 3);
  assert.equal(telling(build(4, 'site', 'passed', 'staging', 'quay'), quay), 4);
  assert.equal(telling(build(4, 'site', 'passed'), quay), 4);
});
