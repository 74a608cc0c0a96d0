import { createHash } from 'node:crypto';
import { headersOfRole, makeClient, roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import { refusalOf } from '../support/service.ts';
import { type Attack, type Attempt, judge } from './attempt.ts';

/** A runner and an edge that say what is not so, with tokens that are good. */
export const byMachines: Attack = async ({ service }) => {
  const { address, environment } = service;
  const bearer = (token = ''): Record<string, string> => headersOfRole(token);
  const runner = makeClient({ address, headers: bearer(environment.VAQUERO_RUNNER_TOKEN) });
  const edge = makeClient({ address, headers: bearer(environment.VAQUERO_EDGE_TOKEN) });
  await service.stopRunner();
  const made = await service.project('claimed');
  await made.copy.commit('To be claimed', { 'index.html': 'x' });
  await made.copy.push(made.remote);
  const claimed = await runner.call(roleRoutes.claimRoute, {
    body: {
      instance: '019aabce-0000-7000-8000-000000000001',
      waitMs: 10_000,
      tools: {},
      slots: 1,
      labels: [],
    },
  });
  if (claimed === null)
    return [{ what: 'claiming a build', expected: 'a build', held: false, saw: 'none' }];
  const own = makeClient({ address, headers: bearer(claimed.credential) });
  const params = { attempt: claimed.attempt };
  const text = 'bytes';
  const digest = createHash('sha256').update(text).digest('hex') as Digest;
  const unknown = 'f'.repeat(64) as Digest;
  const file = { path: 'index.html', digest, sizeBytes: 5, mode: 0o644 as const };
  const propose = (files: readonly unknown[], more: object = {}) =>
    own.call(roleRoutes.proposeArtifactRoute, {
      params,
      body: {
        upload: null,
        since: 1 as never,
        site: 'out',
        entry: 'index.html',
        missing: null,
        files: files as never,
        like: null,
        ...more,
      },
    });
  const codeOf = async (call: Promise<unknown>): Promise<string> =>
    refusalOf(call).then(
      ({ code }) => code,
      (error: unknown) => `not refused: ${error instanceof Error ? error.message : ''}`,
    );
  const attempts: Attempt[] = [];
  const tried = async (what: string, expected: RegExp, call: Promise<unknown>): Promise<void> => {
    attempts.push(judge(`a runner: ${what}`, expected, await codeOf(call)));
  };
  const no = /^(?!not refused|internal)/;
  for (const path of [
    '../x',
    '/etc/passwd',
    'a/../../x',
    '.git/config',
    'a\0b',
    'a\\b',
    '',
    'a//b',
    'x'.repeat(3000),
  ])
    await tried(`a file at ${JSON.stringify(path).slice(0, 30)}`, no, propose([{ ...file, path }]));
  await tried('a file whose bytes are nowhere', no, propose([{ ...file, digest: unknown }]));
  await tried('a file of another size than its bytes', no, propose([{ ...file, sizeBytes: 500 }]));
  await tried('one path twice', no, propose([file, file]));
  await tried('an artifact without its entry page', no, propose([{ ...file, path: 'a.html' }]));
  await tried(
    'an artifact like one that is nobody’s, without a file',
    /./,
    propose([], { like: { artifact: unknown, without: [] } }),
  );
  await tried(
    'a pass of a build that publishes',
    /attempt-over/,
    own.call(roleRoutes.attemptPassedRoute, { params, body: undefined }),
  );
  await tried(
    'a report of six megabytes',
    no,
    own.call(roleRoutes.attemptReportRoute, {
      params,
      body: { step: 'x', kind: 'tests', path: 'x', text: 'x'.repeat(6 << 20) },
    }),
  );
  await tried(
    'a report of a kind that is none',
    no,
    own.call(roleRoutes.attemptReportRoute, {
      params,
      body: { step: 'x', kind: 'secrets' as never, path: 'x', text: '' },
    }),
  );
  for (const failure of [
    { reason: 'inspection', findings: [] },
    { reason: 'step' },
    { reason: 'toString' },
    { reason: 'source', why: 'x'.repeat(1 << 16) },
    { reason: 'step', step: 'x', end: { kind: 'exit', exitCode: 'x' }, atProcessLimit: false },
  ])
    await tried(
      `the failure ${JSON.stringify(failure).slice(0, 40)}`,
      /invalid-request/,
      own.call(roleRoutes.attemptFailedRoute, { params, body: { failure: failure as never } }),
    );
  await tried(
    'the attempt of another',
    no,
    own.call(roleRoutes.attemptBeatRoute, { params: { attempt: '0'.repeat(36) } }),
  );
  const log = await fetch(
    `${address}/role/attempts/${claimed.attempt}/log?offset=99999999&segments=[]`,
    {
      method: 'POST',
      headers: { ...bearer(claimed.credential), 'content-type': 'application/octet-stream' },
      body: 'x',
    },
  );
  attempts.push(judge('a runner: a log far behind its end', /^400$/, String(log.status)));
  await tried(
    'what the service knows of a step of another',
    /./,
    own.call(roleRoutes.attemptKnownRoute, { params, body: { outputs: { x: unknown } } }),
  );
  attempts.push(
    judge(
      'a runner: bytes of a blob, as an edge gets them',
      /^(?:401|403|404)$/,
      String(
        (
          await fetch(`${address}/role/blobs/${digest}`, {
            headers: bearer(environment.VAQUERO_RUNNER_TOKEN),
          })
        ).status,
      ),
    ),
  );
  const edgeTried = async (
    what: string,
    expected: RegExp,
    call: Promise<unknown>,
  ): Promise<void> => {
    attempts.push(judge(`an edge: ${what}`, expected, await codeOf(call)));
  };
  await edgeTried(
    'a build',
    no,
    edge.call(roleRoutes.claimRoute, {
      body: {
        instance: '019aabce-0000-7000-8000-000000000001',
        waitMs: 0,
        tools: {},
        slots: 1,
        labels: [],
      },
    }),
  );
  await edgeTried(
    'a word on a question that nobody asked',
    /./,
    edge.call(roleRoutes.edgeAnswerRoute, { body: { id: 'x', problem: null } }),
  );
  const before = await service.environmentOf('target', 'staging');
  await edge
    .call(roleRoutes.edgeConfirmRoute, {
      body: { instance: '019aabce-0000-7000-8000-000000000001', revision: 1e15 },
    })
    .catch(() => undefined);
  const after = await service.environmentOf('target', 'staging');
  attempts.push(
    judge(
      'an edge: a table that does not exist yet',
      /^as before$/,
      before.serves?.number === after.serves?.number ? 'as before' : 'changed',
    ),
  );
  for (const path of ['..%2f..%2frole-tokens.json', unknown, 'x'])
    attempts.push(
      judge(
        `an edge: the blob ${path.slice(0, 30)}`,
        /^(?:400|404)$/,
        String(
          (
            await fetch(`${address}/role/blobs/${path}`, {
              headers: bearer(environment.VAQUERO_EDGE_TOKEN),
            })
          ).status,
        ),
      ),
    );
  // The build is still there to be done, and no lie of them is live.
  attempts.push(
    judge(
      'a runner: going live by any of that',
      /^nothing$/,
      (await service.environmentOf('claimed', 'staging')).serves === null ? 'nothing' : 'something',
    ),
  );
  return attempts;
};
