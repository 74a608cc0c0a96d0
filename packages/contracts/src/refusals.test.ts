import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';
import type { Refusal } from '@vaquero/core';
import { problemOf, refusalCatalogue, refusalInWords } from './refusals.ts';
import { version } from './version.ts';

const reference = readFileSync(new URL('../../../docs/refusals.md', import.meta.url), 'utf8');

test('the catalogue and its reference page name the same refusals with the same status and exit code', () => {
  const documented = [...reference.matchAll(/^\| `([a-z-]+)` \| (\d+) \| (\d) \|/gm)].map(
    ([, code, status, exit]) => [code, Number(status), Number(exit)],
  );
  const known = Object.entries(refusalCatalogue).map(([code, entry]) => [
    code,
    entry.status,
    entry.exit,
  ]);
  assert.deepEqual(documented.sort(), known.sort());
});

test('a refusal is sent as problem details with its fields, its next step and the request', () => {
  const refusal: Refusal = {
    code: 'environment-held',
    environment: 'production',
    by: 'Jonas Pell',
    since: Date.UTC(2026, 10, 19, 11, 52),
    reason: 'Search finds nothing.',
  };
  assert.deepEqual(problemOf(refusal, 'r1'), {
    ...refusal,
    type: 'urn:vaquero:refusal:environment-held',
    title: 'environment held',
    status: 409,
    requestId: 'r1',
    detail: 'production is held since 2026-11-19 11:52 UTC by Jonas Pell: “Search finds nothing.”.',
    next: 'A releaser can lift the hold on production, in its lane or with vaquero lift-hold. Rolling back stays possible.',
  });
});

test('sentences end, and what is empty is said to be none', () => {
  for (const refusal of [
    { code: 'branch-missing', branch: 'main', branches: [] },
    { code: 'path-not-allowed', path: '/x', roots: [] },
    { code: 'not-allowed', needs: 'releaser', project: null, has: [] },
    {
      code: 'environment-moved',
      environment: 'production',
      seen: null,
      now: null,
      deploy: 0,
      by: 'nobody yet',
      at: 0,
    },
  ] satisfies Refusal[]) {
    const words = refusalInWords(refusal);
    assert.match(words.sentence, /[.”]$/);
    assert.doesNotMatch(words.sentence, /undefined|null/);
    assert.match(words.next, /\.$/);
  }
});

test('the version that programs say is the one of the packages', () => {
  const path = new URL('../../../package.json', import.meta.url);
  assert.equal((JSON.parse(readFileSync(path, 'utf8')) as { version: string }).version, version);
});
