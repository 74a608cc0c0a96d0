import assert from 'node:assert/strict';
import { once } from 'node:events';
import { createServer, type ServerResponse } from 'node:http';
import { connect } from 'node:net';
import test from 'node:test';
import type { Response } from 'express';
import { whenClosed } from './when-closed.ts';

test('a reply that was left before anybody listened is over all the same', async (t) => {
  const server = createServer();
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  t.after(() => server.close());
  const address = server.address();
  const port = typeof address === 'object' ? (address?.port ?? 0) : 0;
  const asked = once(server, 'request');
  const socket = connect(port, '127.0.0.1');
  socket.write('GET / HTTP/1.1\r\nHost: x\r\n\r\n');
  const [, res] = (await asked) as [unknown, ServerResponse];
  const gone = once(res, 'close');
  let early = 0;
  whenClosed(res as Response, () => {
    early += 1;
  });
  socket.destroy();
  await gone;
  assert.equal(early, 1);
  await new Promise<void>((resolve) => whenClosed(res as Response, resolve));
});
