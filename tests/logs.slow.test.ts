import assert from 'node:assert/strict';
import { once } from 'node:events';
import { connect, type Socket } from 'node:net';
import test from 'node:test';
import { buildRoutes } from '@vaquero/contracts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';

const path = '/api/projects/timetable/builds/1/log';

/** Joins a log's stream by hand, so that it can stop reading. */
async function join(service: TestService, from: number): Promise<Socket> {
  const { host, port } = new URL(service.address);
  const socket = connect(Number(port), '127.0.0.1');
  await once(socket, 'connect');
  socket.write(
    `GET ${path} HTTP/1.1\r\nhost: ${host}\r\nauthorization: Bearer ${service.operatorSecret}\r\naccept: text/event-stream\r\nlast-event-id: ${from}\r\nconnection: close\r\n\r\n`,
  );
  return socket;
}

/** What a stream said in all, and the offset it had come to. */
async function readToEnd(socket: Socket): Promise<{ text: string; upTo: number; ended: boolean }> {
  const chunks: Buffer[] = [];
  socket.on('data', (chunk: Buffer) => chunks.push(chunk));
  socket.on('error', () => undefined); // Cut off by the service, as is tested.
  socket.resume();
  await once(socket, 'close');
  // Of the transfer's own framing only chunk sizes stand between lines, and they begin no field.
  const raw = Buffer.concat(chunks)
    .toString('latin1')
    .replace(/\r\n[0-9a-f]+\r\n/g, '');
  const events = [...raw.matchAll(/id: (\d+)\ndata: (".*")\n\n/g)];
  return {
    text: events.map((event) => JSON.parse(event[2] ?? '""') as string).join(''),
    upTo: Number(events.at(-1)?.[1] ?? 0),
    ended: raw.includes('event: end'),
  };
}

test('a reader that does not keep up is cut off, and goes on where it was without loss or doubles', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.copy.commit('Talkative', {
    'vaquero.yaml':
      'steps: {pages: {run: [echo begun, sleep 1, seq 1 1800000, mkdir out, echo x > out/index.html]}}\nserve: {site: out}\n',
  });
  await made.copy.push(made.remote);
  const params = { project: 'timetable', build: 1 };
  await until('it speaks', async () => {
    const { lines } = await service.operator
      .call(buildRoutes.logLinesRoute, { params, query: { step: 'pages', limit: 10 } })
      .catch(() => ({ lines: [] })); // The push is not noticed yet.
    return lines.some((line) => line.text === 'begun');
  });
  const stalled = await join(service, 0);
  stalled.pause();
  assert.equal((await service.buildEnded('timetable', 1)).failure, null);
  const first = await readToEnd(stalled);
  assert.equal(first.ended, false);
  const rest = await readToEnd(await join(service, first.upTo));
  assert.equal(rest.ended, true);
  const whole = await fetch(`${service.address}${path}`, {
    headers: { authorization: `Bearer ${service.operatorSecret}` },
  }).then((response) => response.text());
  assert.ok(first.text.length > 0 && rest.text.length > 0);
  assert.equal(first.text.length + rest.text.length, whole.length);
  assert.ok(first.text + rest.text === whole);
});
