import assert from 'node:assert/strict';
import { once } from 'node:events';
import { createServer, type RequestListener } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import test, { type TestContext } from 'node:test';
import { roleRoutes } from '@vaquero/contracts';
import { makeTeller } from './tell-api.ts';

async function telling(t: TestContext, answer: RequestListener) {
  const sockets: Socket[] = [];
  const server = createServer(answer);
  server.on('connection', (socket) => sockets.push(socket));
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  const headers = { authorization: 'Bearer x' };
  const teller = makeTeller({ address: `http://127.0.0.1:${port}`, headers });
  t.after(() => {
    teller.stop();
    server.closeAllConnections();
    server.close();
  });
  const confirm = (revision: number) =>
    teller.tell(roleRoutes.edgeConfirmRoute, { instance: 'i', revision });
  return { confirm, sockets, server };
}

test('what is told comes with the edge’s token, over one connection that stays', async (t) => {
  const told: string[] = [];
  const { confirm, sockets } = await telling(t, async (req, res) => {
    let text = '';
    for await (const chunk of req) text += String(chunk);
    told.push(`${req.method} ${req.url} ${req.headers.authorization} ${text}`);
    res.end('null');
  });
  await confirm(7);
  await confirm(8);
  assert.deepEqual(told, [
    'POST /role/confirmations Bearer x {"instance":"i","revision":7}',
    'POST /role/confirmations Bearer x {"instance":"i","revision":8}',
  ]);
  assert.equal(sockets.length, 1);
});

test('a kept connection that breaks is replaced and the same told again; a refusal and an absent api are said', async (t) => {
  let answers: 'well' | 'not' | 'with 503' = 'well';
  let taken = 0;
  const { confirm, sockets, server } = await telling(t, (req, res) => {
    taken += 1;
    if (answers === 'not' && sockets[0] === req.socket) req.socket.destroy();
    else res.writeHead(answers === 'with 503' ? 503 : 200).end('null');
  });
  await confirm(1);
  answers = 'not';
  await confirm(2);
  assert.deepEqual([taken, sockets.length], [3, 2]);
  answers = 'with 503';
  await assert.rejects(confirm(3), /answered with HTTP 503/);
  server.closeAllConnections();
  server.close();
  await once(server, 'close');
  await assert.rejects(confirm(4), /ECONNREFUSED/);
});
