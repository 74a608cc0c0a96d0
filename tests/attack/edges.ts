import { connect } from 'node:net';
import { type Attack, type Attempt, judge, raw } from './attempt.ts';

/** What visitors ask an edge that no browser asks. */
export const atTheEdge: Attack = async ({ service }) => {
  const port = service.edgePort;
  const site = `staging.target.localhost:${port}`;
  const get = (path: string, host = site, ...more: string[]): string =>
    `GET ${path} HTTP/1.1\r\nHost: ${host}\r\nConnection: close\r\n${more.map((one) => `${one}\r\n`).join('')}\r\n`;
  const [absent, found] = [/^HTTP\/1\.1 (?:404|400) /, /^HTTP\/1\.1 200 /];
  const paths = [
    '/../../../etc/passwd',
    '/..%2f..%2f..%2fetc/passwd',
    '/%2e%2e/%2e%2e/etc/passwd',
    '/%252e%252e/etc/passwd',
    '/..\\..\\etc\\passwd',
    '/....//....//etc/passwd',
    '//etc/passwd',
    '/%00',
    '/index.html%00.txt',
    '/.git/config',
    '/.GIT/HEAD',
    '/%c0%ae%c0%ae/etc/passwd',
    '/%u002e%u002e/x',
    '/;/etc/passwd',
    '/index.html/../../x',
    `/${'a/'.repeat(3000)}`,
    `/${'%2e/'.repeat(2000)}x`,
    '/constructor',
    '/__proto__',
    '/hasOwnProperty',
    '/%',
    '/%zz',
    '*',
  ];
  const hosts = [
    'constructor',
    '__proto__',
    'toString',
    '127.0.0.1',
    '[::1]',
    'localhost',
    `target.localhost:${port}.evil.example`,
    `evil.example`,
    `staging.target.localhost@evil.example`,
    'build-1.target',
    `build-1.other.artifacts.localhost:${port}x`,
    `${'a'.repeat(52)}.artifacts.localhost:${port}`,
    '',
    ' ',
    'a'.repeat(5000),
    '..',
    `staging..target.localhost:${port}`,
    `*.localhost:${port}`,
    'edge.health.evil',
  ];
  const rows: readonly (readonly [string, string, RegExp])[] = [
    ...paths.map((path) => [`the path ${path.slice(0, 40)}`, get(path), absent] as const),
    ...hosts.map(
      (host) =>
        [
          `the host ${host.slice(0, 50) || 'of nobody'}`,
          get('/', host),
          /^HTTP\/1\.1 (?:404|400|431) /,
        ] as const,
    ),
    ['the same site by another port', get('/', 'staging.target.localhost:1'), found],
    ['the same site with a dot behind', get('/', 'STAGING.target.localhost.'), found],
    [
      'an address that leads away',
      get('//evil.example/%2f..'),
      /^HTTP\/1\.1 (?:404|400) (?![\s\S]*Location: \/\/)/,
    ],
    [
      'a whole address',
      get(`http://evil.example/`),
      /^HTTP\/1\.1 (?:404|400|200) (?![\s\S]*evil\.example)/,
    ],
    [
      'a key of the service’s',
      get('/', `${'a'.repeat(52)}.artifacts.localhost:${port}`, 'Vaquero-Look: x'),
      absent,
    ],
    ['writing', get('/').replace('GET', 'PUT'), /^HTTP\/1\.1 405 /],
    [
      'a body with a question',
      `POST / HTTP/1.1\r\nHost: ${site}\r\nContent-Length: 99999999\r\n\r\n`,
      /^HTTP\/1\.1 405 /,
    ],
    ['two lengths', get('/', site, 'Content-Length: 5', 'Content-Length: 6'), /^HTTP\/1\.1 400 /],
    [
      'a length and chunks',
      get('/', site, 'Content-Length: 5', 'Transfer-Encoding: chunked'),
      /^HTTP\/1\.1 400 /,
    ],
    ['a header of a megabyte', get('/', site, `X: ${'x'.repeat(1 << 20)}`), /^HTTP\/1\.1 431 /],
    ['a thousand encodings', get('/', site, `Accept-Encoding: ${'br;q=0,'.repeat(1000)}`), found],
    ['a thousand tags', get('/', site, `If-None-Match: ${'"x",'.repeat(1000)}`), found],
    [
      'the health of the edge, as a page',
      get('/', 'edge.health'),
      /^HTTP\/1\.1 200 (?![\s\S]*(?:token|secret))/i,
    ],
  ];
  const attempts: Attempt[] = [];
  for (const [what, request, expected] of rows)
    attempts.push(judge(`at an edge: ${what}`, expected, await raw(port, request)));
  // Many who begin to ask and never go on.
  const slow = Array.from({ length: 200 }, () =>
    connect(port, '127.0.0.1').on('error', () => undefined),
  );
  for (const socket of slow) socket.write('GET / HTTP/1.1\r\nHost: ');
  attempts.push(
    judge('at an edge: two hundred who never end their question', found, await raw(port, get('/'))),
  );
  for (const socket of slow) socket.destroy();
  return attempts;
};
