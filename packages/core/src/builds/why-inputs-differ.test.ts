import assert from 'node:assert/strict';
import test from 'node:test';
import type { Digest } from '../digest.ts';
import { type BuildInputs, whyInputsDiffer } from './why-inputs-differ.ts';

const digest = (letter: string) => letter.repeat(64) as Digest;
const preview: BuildInputs = {
  trust: 'trusted',
  steps: ['pages', 'checks'],
  given: { KEY: digest('a'), NOTE: digest('b') },
};

test('why a merge is built anew is told by step, by value and by whose code it was', () => {
  assert.deepEqual(whyInputsDiffer(preview, preview, 'staging'), []);
  const main: BuildInputs = {
    trust: 'trusted',
    steps: ['pages', 'signs'],
    given: { KEY: digest('c'), MAP: digest('d') },
  };
  assert.deepEqual(whyInputsDiffer(preview, main, 'staging'), [
    'the step signs is run for staging alone',
    'the step checks is not run for staging',
    'KEY has another value for staging',
    'MAP is given for staging alone',
    'NOTE is not given for staging',
  ]);
  assert.deepEqual(whyInputsDiffer({ ...preview, trust: 'outsider' }, preview, 'staging'), [
    'nothing that an outsider’s code made is taken over',
  ]);
});
