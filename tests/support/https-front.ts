import { readFileSync } from 'node:fs';
import { request as ask } from 'node:http';
import { createServer } from 'node:https';
import { join } from 'node:path';
import type { TestContext } from 'node:test';
import { execa } from 'execa';
import { atEnd, temporaryFolder } from './place.ts';

/** What stands before a service where people reach it under names of the world's: https, with a certificate of the test's own. */
export interface HttpsFront {
  /** Which port of this machine answers for a host, once the service has its own. */
  readonly behind: (portOf: (host: string) => number) => void;
}

/** Starts a front on a port; every name under the domains has its certificate. */
export async function startHttpsFront(
  t: TestContext,
  port: number,
  domains: readonly string[],
): Promise<HttpsFront> {
  const folder = temporaryFolder(t);
  const [key, cert] = [join(folder, 'key.pem'), join(folder, 'cert.pem')];
  const names = domains.flatMap((domain) => [`DNS:${domain}`, `DNS:*.${domain}`]).join(',');
  await execa('openssl', [
    ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes'],
    ...['-days', '2', '-subj', '/CN=front', '-addext', `subjectAltName=${names}`],
    ...['-keyout', key, '-out', cert],
  ]);
  let portOf = (_host: string): number => 0;
  const server = createServer({ key: readFileSync(key), cert: readFileSync(cert) }, (req, res) => {
    const host = req.headers.host ?? '';
    const onward = ask(
      {
        host: '127.0.0.1',
        port: portOf(host.replace(/:\d+$/, '')),
        path: req.url,
        method: req.method,
        headers: req.headers,
      },
      (reply) => {
        res.writeHead(reply.statusCode ?? 502, reply.rawHeaders);
        reply.pipe(res);
      },
    );
    onward.on('error', () => res.destroy());
    res.on('close', () => onward.destroy());
    req.pipe(onward);
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  atEnd(t, () => {
    server.closeAllConnections();
    server.close();
  });
  return {
    behind: (next) => {
      portOf = next;
    },
  };
}
