import { gzipSync } from 'node:zlib';
import { protocol } from '@vaquero/contracts';
import { type Attack, type Attempt, judge, raw } from './attempt.ts';

type Row = readonly [what: string, request: string | Buffer, expected: RegExp];

/** Calls of the api as no client makes them. */
export const overHttp: Attack = async ({ service, builder }) => {
  const { host, port } = new URL(service.address);
  const head = (line: string, ...more: string[]): string =>
    `${line} HTTP/1.1\r\nHost: ${host}\r\nConnection: close\r\n${more.map((one) => `${one}\r\n`).join('')}\r\n`;
  const known = `Authorization: Bearer ${builder.secret}`;
  const runner = `Authorization: Bearer ${service.environment.VAQUERO_RUNNER_TOKEN}\r\nVaquero-Protocol: ${protocol}`;
  const json = (path: string, body: string | Buffer, ...more: string[]): Buffer =>
    Buffer.concat([
      Buffer.from(
        head(
          `POST ${path}`,
          'Content-Type: application/json',
          `Content-Length: ${Buffer.byteLength(body)}`,
          ...more,
        ),
      ),
      Buffer.from(body),
    ]);
  const bomb = gzipSync(Buffer.alloc(48 << 20, ' '));
  const [refused, absent, forged, bad] = [
    /^HTTP\/1\.1 401 /,
    /^HTTP\/1\.1 404 /,
    /^HTTP\/1\.1 403 /,
    /^HTTP\/1\.1 (?:400|413|431|415) /,
  ];
  const page = /^HTTP\/1\.1 (?:404|400|403) |^HTTP\/1\.1 200 [\s\S]*<!doctype html>/i;
  const rows: readonly Row[] = [
    ...[
      '/api/me',
      '/api/tokens',
      '/api/projects/target',
      '/api/projects/target/builds',
      '/api/projects/target/variables',
      '/api/events?project=target',
      '/api/projects/other',
      '/api/runners',
      '/api/edges',
    ].map(
      (path): Row => [`${path} without a name`, head(`GET ${path}`), /^HTTP\/1\.1 (?:401|404) /],
    ),
    ...[
      '/api/projects/other',
      '/api/projects/other/builds',
      '/api/projects/other/lanes?days=1',
      '/api/projects/other/variables',
      '/api/events?project=other',
      '/api/projects/other/recipe',
    ].map((path): Row => [`${path} of others`, head(`GET ${path}`, known), absent]),
    ...['/api/runners', '/api/edges'].map(
      (path): Row => [`${path} as a builder`, head(`GET ${path}`, known), forged],
    ),
    [
      'making a project as a builder',
      json('/api/projects', '{"name":"mine","repository":{"kind":"hosted"}}', known),
      forged,
    ],
    [
      'setting a secret as a builder',
      json('/api/projects/target/variables', '{}', known),
      /^HTTP\/1\.1 (?:403|404) /,
    ],
    ...[
      '/role/claims',
      '/role/beats',
      '/role/orders?instance=019aabce-0000-7000-8000-000000000001&revision=1',
      '/role/blobs/00',
      '/role/outputs/00',
    ].map(
      (path): Row => [
        `${path} with a person’s token`,
        head(`GET ${path}`, known),
        /^HTTP\/1\.1 (?:401|404) /,
      ],
    ),
    [
      'an edge’s call with a runner’s token',
      json('/role/beats', '{"instance":"x","revision":1}', runner),
      refused,
    ],
    [
      'an attempt that is nobody’s',
      head('POST /role/attempts/x/beats', 'Content-Length: 0', runner),
      /^HTTP\/1\.1 (?:401|404|409) /,
    ],
    ['the host of another page', head('GET /api/me', known).replace(host, 'evil.example'), forged],
    ['no host', `GET /api/me HTTP/1.1\r\nConnection: close\r\n\r\n`, bad],
    ['two hosts', head('GET /api/me', 'Host: evil.example'), /^HTTP\/1\.1 (?:400|401|403) /],
    ['two lengths', head('POST /api/sign-in', 'Content-Length: 5', 'Content-Length: 6'), bad],
    [
      'a length and chunks',
      head('POST /api/sign-in', 'Content-Length: 5', 'Transfer-Encoding: chunked'),
      bad,
    ],
    [
      'chunks that are none',
      `${head('POST /api/sign-in', 'Content-Type: application/json', 'Transfer-Encoding: chunked')}zz\r\n`,
      bad,
    ],
    ['a line that is none', 'NONSENSE\r\n\r\n', bad],
    ['a header of a megabyte', head('GET /api/me', `X: ${'x'.repeat(1 << 20)}`), bad],
    ['an address of a megabyte', head(`GET /${'x'.repeat(1 << 20)}`), bad],
    [
      'a thousand headers',
      head('GET /api/me', ...Array.from({ length: 3000 }, (_, n) => `X${n}: y`)),
      /^HTTP\/1\.1 (?:400|401|431) /,
    ],
    ['a header with a line end in it', head('GET /api/me', 'X: a\rb'), bad],
    ['a NUL in the address', head('GET /api/projects/a%00b', known), /^HTTP\/1\.1 (?:400|404) /],
    ['half a percent sign', head('GET /api/projects/%E0%A4%A', known), bad],
    ...[
      '/assets/..%2f..%2f..%2fetc%2fpasswd',
      '/assets/../../package.json',
      '/..%5c..%5cetc',
      '/assets/%2e%2e/%2e%2e/index.html',
      '/p/..%2f..%2fetc/passwd',
      '//etc/passwd',
      '/.env',
      '/assets/.%00./x',
    ].map((path): Row => [`files of the machine by ${path}`, head(`GET ${path}`), page]),
    ...['TRACE', 'CONNECT', 'OPTIONS', 'PATCH', 'PROPFIND'].map(
      (method): Row => [
        `the method ${method}`,
        head(`${method} /api/me`, known),
        /^HTTP\/1\.1 (?:404|400|405) |^$/,
      ],
    ),
    [
      'a bomb for a body, without a name',
      json('/api/projects', bomb, 'Content-Encoding: gzip'),
      refused,
    ],
    [
      'a bomb for a body, with one',
      json('/api/projects', bomb, 'Content-Encoding: gzip', known),
      /^HTTP\/1\.1 (?:403|400|415|413) /,
    ],
    [
      'a bomb at a machine’s door',
      json('/role/claims', bomb, 'Content-Encoding: gzip', runner),
      bad,
    ],
    [
      'a body of a megabyte at the sign-in',
      json('/api/sign-in', `{"name":"${'x'.repeat(1 << 20)}"}`),
      /^HTTP\/1\.1 (?:413|403) /,
    ],
    [
      'the prototype in a body',
      json(
        '/api/sign-in/token',
        '{"__proto__":{"isAdmin":true},"name":"x","password":"y","token":"z"}',
      ),
      /^HTTP\/1\.1 (?:400|401) /,
    ],
    ['numbers beyond all bounds', json('/api/tokens', '{"name":"x","days":1e308}', known), bad],
    ['a list for a text', json('/api/tokens', '{"name":["x"]}', known), bad],
    ['a control character in a name', json('/api/tokens', '{"name":"a\\u001b[2J"}', known), bad],
    [
      'depth without end',
      json('/api/tokens', `${'['.repeat(40_000)}${']'.repeat(40_000)}`, known),
      bad,
    ],
    [
      'a sign-in from another page',
      json(
        '/api/sign-in',
        '{"name":"ines","password":"x"}',
        'Origin: http://evil.example',
        'Vaquero-Request: console',
      ),
      forged,
    ],
    [
      'a sign-in without our header',
      json('/api/sign-in', '{"name":"ines","password":"x"}', `Origin: ${service.origin}`),
      forged,
    ],
    [
      'a sign-in as a form',
      `${head(
        'POST /api/sign-in',
        'Content-Type: application/x-www-form-urlencoded',
        'Content-Length: 3',
        `Origin: ${service.origin}`,
        'Vaquero-Request: console',
      )}a=b`,
      bad,
    ],
    ['a session that is none', head('GET /api/me', 'Cookie: __Host-vaquero=x'), refused],
    [
      'a token of the right form',
      head('GET /api/me', `Authorization: Bearer vaq_${'x'.repeat(43)}`),
      refused,
    ],
    ['SQL for a token', head('GET /api/me', "Authorization: Bearer '%20OR%201=1--"), refused],
    ['SQL for a project', head("GET /api/projects/x'%20OR%20'1'='1", known), absent],
    [
      'a build number that is none',
      head('GET /api/projects/target/builds/99999999999999999999', known),
      /^HTTP\/1\.1 (?:404|400) /,
    ],
    [
      'a negative build',
      head('GET /api/projects/target/builds/-1', known),
      /^HTTP\/1\.1 (?:404|400) /,
    ],
  ];
  const attempts: Attempt[] = [];
  for (const [what, request, expected] of rows)
    attempts.push(judge(`over HTTP: ${what}`, expected, await raw(Number(port), request)));
  // After all of it people are answered as before.
  const began = performance.now();
  const health = await fetch(`${service.address}/health`);
  attempts.push(
    judge(
      'silencing the api by all of that',
      /^answers$/,
      health.status < 500 && performance.now() - began < 2000 ? 'answers' : `HTTP ${health.status}`,
    ),
  );
  return attempts;
};
