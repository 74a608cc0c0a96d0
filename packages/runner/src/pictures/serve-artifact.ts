import { once } from 'node:events';
import { createReadStream } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import { type Manifest, makeFields, makeResolver, rulesOfManifest } from '@vaquero/core';
import { lookup } from 'mime-types';

/** An artifact that answers on a port of the loopback. */
export interface ServedArtifact {
  readonly origin: string;
  readonly stop: () => void;
}

/** Serves an artifact as an edge does, by the same resolver, from a folder of files by their digests. */
export async function serveArtifact(manifest: Manifest, folder: string): Promise<ServedArtifact> {
  const rules = rulesOfManifest(manifest);
  const files = new Map(manifest.site.files.map((file) => [file.path as string, file]));
  const resolve = makeResolver((path) => files.has(path), rules);
  const fieldsAt = makeFields(rules.headers);
  const server: Server = createServer((req, res) => {
    const [target = '/'] = (req.url ?? '/').split('?', 1);
    for (const [name, value] of fieldsAt(target)) res.setHeader(name, value);
    const found = resolve(target);
    if (found.kind === 'moved') return void res.writeHead(308, { location: found.to }).end();
    const file = found.kind === 'file' ? files.get(found.path) : undefined;
    if (found.kind !== 'file' || file === undefined) return void res.writeHead(404).end();
    const type = lookup(found.path) || 'application/octet-stream';
    const isText = /^text\/|javascript|json|svg\+xml/.test(type);
    res.writeHead(found.status, { 'content-type': isText ? `${type}; charset=utf-8` : type });
    createReadStream(join(folder, file.digest))
      .on('error', () => res.destroy())
      .pipe(res);
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  const port = typeof address === 'object' && address !== null ? address.port : 0;
  return {
    origin: `http://127.0.0.1:${port}`,
    stop: () => {
      server.closeAllConnections();
      server.close();
    },
  };
}
