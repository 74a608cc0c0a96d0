import assert from 'node:assert/strict';
import { subscribe, unsubscribe } from 'node:diagnostics_channel';
import type { IncomingMessage } from 'node:http';
import test from 'node:test';
import { auditRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { atEnd, until } from '../support/place.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('all tabs of a browser share one stream, and go on where it was cut', async (t) => {
  const streams: IncomingMessage[] = [];
  const note = (message: unknown): void => {
    const { request } = message as { request: IncomingMessage };
    if (request.url === auditRoutes.eventsRoute.path) streams.push(request);
  };
  subscribe('http.server.request.start', note);
  atEnd(t, () => void unsubscribe('http.server.request.start', note));

  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await service.project('signage');
  await page.goto(`${service.origin}/p/timetable`);
  await page.getByText('git push').waitFor();
  await until('the first tab listens', () => streams.some(({ socket }) => !socket.destroyed));
  const before = streams.length;
  const other = await page.context().newPage();
  await other.goto(`${service.origin}/p/timetable/builds`);
  await other.getByRole('heading', { name: 'No build yet' }).waitFor();
  await made.push('First timetable', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await page.getByRole('heading', { name: /Build 1 .*can go to production/ }).waitFor();
  await other.getByRole('heading', { name: 'Build 1 passed.' }).waitFor();
  assert.equal(streams.length, before);

  streams.at(-1)?.socket.destroy();
  await service.promote('timetable');
  await page.getByRole('heading', { name: /serve the same bytes: build 1/ }).waitFor();
  await until('it is asked for from where it was', () => streams.length > before);
  const from = Number(streams.at(-1)?.headers['last-event-id']);
  assert.ok(from > 0, `from ${from}`);

  // The last tab that leaves takes the stream along.
  const gone = streams.at(-1)?.socket;
  await Promise.all([page.close(), other.close()]);
  await until('the stream is left', () => gone?.destroyed === true);
});
