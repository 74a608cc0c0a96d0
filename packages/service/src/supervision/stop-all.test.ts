import assert from 'node:assert/strict';
import test from 'node:test';
import { stopAll } from './supervise.ts';

test('one that does not stop keeps none of the others from it, and the first failure is told', async () => {
  const tried: string[] = [];
  const one = (name: string, fails: boolean) => ({
    stop: () => {
      tried.push(name);
      return fails ? Promise.reject(new Error(name)) : Promise.resolve();
    },
  });
  const all = [one('runner', true), one('edge', false), one('api', true), one('mariadb', false)];
  await assert.rejects(stopAll(all), /^Error: runner$/);
  assert.deepEqual(tried, ['runner', 'edge', 'api', 'mariadb']);
});
