import assert from 'node:assert/strict';
import test from 'node:test';
import type { StepReport } from '@vaquero/contracts';
import { makeStepTeller } from './step-reports.ts';

const report = (name: string, state: StepReport['state'] = 'passed'): StepReport => ({
  name,
  place: 0,
  says: '',
  after: [],
  state,
  tries: 1,
  at: 0 as never,
  logFrom: null,
  reused: null,
});

test('steps are told in order, what is said meanwhile joins the next call', async () => {
  const calls: string[][] = [];
  const gates: (() => void)[] = [];
  const teller = makeStepTeller(
    (reports) => {
      calls.push(reports.map((one) => one.name));
      return new Promise((resolve) => gates.push(resolve));
    },
    () => assert.fail('nothing was lost'),
  );
  teller.tell([report('fetch')]);
  teller.tell([report('words')]);
  teller.tell([]);
  teller.tell([report('pages'), report('checks')]);
  assert.deepEqual(calls, [['fetch']]);
  gates[0]?.();
  await new Promise((resolve) => setImmediate(resolve));
  assert.deepEqual(calls, [['fetch'], ['words', 'pages', 'checks']]);
  gates[1]?.();
  await teller.flush();
});

test('once the service says that the attempt is over nothing is sent, and waiting for it ends', async () => {
  const lost: unknown[] = [];
  let calls = 0;
  const teller = makeStepTeller(
    () => {
      calls += 1;
      return Promise.reject(new Error('over'));
    },
    (error) => lost.push(error),
  );
  teller.tell([report('fetch')]);
  await teller.flush();
  teller.tell([report('words')]);
  await teller.flush();
  assert.deepEqual([calls, lost.length], [1, 1]);
});
