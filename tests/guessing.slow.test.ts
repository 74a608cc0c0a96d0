import assert from 'node:assert/strict';
import { request } from 'node:http';
import test from 'node:test';
import { type AnyRoute, everyRoute, type Problem, pathOf } from '@vaquero/contracts';
import fc from 'fast-check';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

interface Answer {
  readonly status: number;
  readonly type: string;
  readonly text: string;
}

/** Sends a call as it is, past our own client; a stream is left as soon as it begins. */
function send(
  service: TestService,
  { method, path }: { readonly method: string; readonly path: string },
  token: string,
  payload: string | undefined,
): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const asking = request(
      {
        host: '127.0.0.1',
        port: Number(new URL(service.address).port),
        path,
        method,
        headers: {
          'content-type': 'application/json',
          authorization: `Bearer ${token}`,
          ...(method === 'GET' ? {} : { 'content-length': Buffer.byteLength(payload ?? '') }),
        },
      },
      (res) => {
        const type = res.headers['content-type'] ?? '';
        const status = res.statusCode ?? 0;
        if (/event-stream|ndjson/.test(type)) {
          res.destroy();
          return resolve({ status, type, text: '' });
        }
        let text = '';
        res.on('data', (bytes: Buffer) => {
          text += bytes.toString();
        });
        res.on('end', () => resolve({ status, type, text }));
        res.on('error', reject);
      },
    );
    asking.on('error', reject);
    asking.end(method === 'GET' ? undefined : payload);
  });
}

/** Names as they stand in addresses, of things that are there, that are not, and that could not be. */
const names = fc.constantFrom(
  'timetable',
  'production',
  'staging',
  '1',
  '0',
  '-1',
  '1e9',
  '99999999999999999999',
  'NaN',
  '..',
  '.',
  '%2e%2e%2fetc',
  '%00',
  '%F0%9F%9B%B3',
  "'; drop table builds; --",
  'a'.repeat(300),
  'a'.repeat(64),
  '01a20996-6e2d-7582-a4fd-765fc39e662f',
);

/** What bodies are made of: fields that routes know, with values that fit, nearly fit, or do not at all. */
const value: fc.Arbitrary<unknown> = fc.oneof(
  fc.constantFrom(
    null,
    true,
    0,
    -1,
    1,
    1.5,
    1e300,
    '',
    'x',
    'main',
    'staging',
    'a'.repeat(64),
    'refs/heads/main',
    '../..',
    '\u0000',
    '\ud800',
    '🛳',
    'x'.repeat(5000),
  ),
  fc.array(fc.constantFrom(null, 1, 'x', {}), { maxLength: 3 }),
  fc.dictionary(
    fc.constantFrom('kind', 'generation', 'artifact', 'deploy', 'build', '__proto__'),
    fc.constantFrom(null, 0, 'x', 'hosted', 'path'),
  ),
);
const fields = fc.constantFrom(
  ...['name', 'repository', 'branch', 'folder', 'from', 'artifact', 'seen', 'reason', 'to'],
  ...['generation', 'text', 'kind', 'days', 'value', 'secret', 'environment', 'draining'],
  ...['build', 'mode', 'recipe', 'changes', 'instance', 'waitMs', 'tools', 'slots', 'labels'],
  ...[
    'id',
    'problem',
    'revision',
    'upload',
    'site',
    'entry',
    'files',
    'like',
    'steps',
    'failure',
    '__proto__',
  ],
);
const bodies = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.dictionary(fields, value, { maxKeys: 6 }).map((body) => JSON.stringify(body)),
  },
  { weight: 2, arbitrary: value.map((body) => JSON.stringify(body)) },
  {
    weight: 1,
    arbitrary: fc.constantFrom('', '{', '[[[[', '"', 'null', '{"a":1}{"b":2}', '\u0000'),
  },
);
const queries = fc.constantFrom(
  '',
  '?limit=-1',
  '?limit=x&days=1e9',
  '?text=%',
  '?before=&since=..',
  '?offset=-1&segments=[',
  '?limit=1&limit=2',
);

test('whatever is sent to whatever route, by whoever may call it, gets an answer that explains itself, never a fault', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const tokens = [
    service.operatorSecret,
    service.environment.VAQUERO_RUNNER_TOKEN ?? '',
    service.environment.VAQUERO_EDGE_TOKEN ?? '',
  ];
  // Its own token must outlive the test, and no call is to wait for a build.
  const left = new Set(['revokeTokenRoute', 'signOutRoute', 'claimRoute', 'ordersRoute']);
  const routes = everyRoute.filter(([name]) => !left.has(name));
  const codes = new Map<number, number>();
  const tried = async (
    [name, route]: readonly [string, AnyRoute],
    param: string,
    more: string,
    token: string,
    body: string,
  ) => {
    const wanted = [...route.path.matchAll(/:(\w+)/g)].map((match) => match[1] ?? '');
    // The first is mostly a project, so that a call comes further than to its name.
    const params = Object.fromEntries(
      wanted.map((one, place) => [one, place === 0 && one === 'project' ? 'timetable' : '-']),
    );
    const at = pathOf(route, params).replaceAll(
      '/-',
      `/${param.includes(' ') ? encodeURIComponent(param) : param}`,
    );
    const { status, type, text } = await send(
      service,
      { method: route.method, path: at + more },
      token,
      body,
    );
    codes.set(status, (codes.get(status) ?? 0) + 1);
    const said = `${name} ${route.method} ${at}${more} ${body.slice(0, 200)}: ${status} ${text.slice(0, 300)}`;
    assert.ok(status < 500, said);
    if (status < 400) return;
    assert.match(type, /^application\/problem\+json/, said);
    const problem = JSON.parse(text) as Problem;
    for (const part of [
      problem.code,
      problem.title,
      problem.detail,
      problem.next,
      problem.requestId,
    ])
      assert.ok(typeof part === 'string' && part !== '', said);
    assert.doesNotMatch(text, /node_modules|\.ts:\d|select .* from|SQL/i, said);
  };
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...routes),
      names,
      queries,
      fc.constantFrom(...tokens),
      bodies,
      tried,
    ),
    { numRuns: 1500 },
  );
  // It came as far as to be carried out, to be refused, and not to be found.
  for (const status of [200, 400, 401, 404])
    assert.ok((codes.get(status) ?? 0) > 0, `${status} ${[...codes]}`);
  assert.equal((await service.page(`staging.timetable.localhost:${service.edgePort}`)).status, 200);
});
