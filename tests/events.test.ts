import assert from 'node:assert/strict';
import test, { type TestContext } from 'node:test';
import { auditRoutes } from '@vaquero/contracts';
import { atEnd, until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

/** Listens to what changes in a project; each event is read by its contract. */
async function listen(t: TestContext, service: TestService, secret: string, project: string) {
  const gone = new AbortController();
  atEnd(t, () => gone.abort());
  const response = await fetch(`${service.address}/api/projects/${project}/events`, {
    headers: { authorization: `Bearer ${secret}`, accept: 'text/event-stream' },
    signal: gone.signal,
  });
  const heard: auditRoutes.ProjectEvent[] = [];
  if (response.ok) {
    void (async () => {
      let text = '';
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
        text += Buffer.from(chunk).toString();
        const events = text.split('\n\n');
        text = events.pop() ?? '';
        for (const event of events) {
          const data = /^data: (.*)$/m.exec(event)?.[1];
          if (data !== undefined) heard.push(auditRoutes.projectEvent.parse(JSON.parse(data)));
        }
      }
    })().catch(() => undefined); // It ends with the test, or with the service.
  }
  return { response, heard, leave: () => gone.abort() };
}

test('whoever listens to a project hears of its pushes, builds and moves, and of nothing else', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const other = await service.project('signage');
  const [timetable, signage] = await Promise.all([
    listen(t, service, service.operatorSecret, 'timetable'),
    listen(t, service, service.operatorSecret, 'signage'),
  ]);
  assert.match(timetable.response.headers.get('content-type') ?? '', /^text\/event-stream/);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const has = (what: string, build?: number): boolean =>
    timetable.heard.some(
      (event) => event.what === what && (build === undefined || event.build === build),
    );
  await until(
    'the push, the build and the move are heard',
    () => ['repository', 'environment'].every((what) => has(what)) && has('build', 1),
  );
  assert.deepEqual(signage.heard, [], 'another project is another matter');
  const before = timetable.heard.length;
  await service.promote('timetable');
  await until('the promotion is heard', () =>
    timetable.heard.slice(before).some((event) => event.what === 'environment'),
  );
  // Who left is told nothing more, and keeps nothing from being told to others.
  timetable.leave();
  const left = timetable.heard.length;
  await other.push('One', { 'vaquero.yaml': recipeOf(writesPage('sign')) });
  await until('the other project is heard', () => signage.heard.length > 0);
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.equal(timetable.heard.length, left);
});

test('who may not see a project does not hear of it, and is not told that it is there', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project('timetable');
  await service.project('signage');
  const wren = await service.person('wren', 'reader', 'signage');
  assert.equal((await listen(t, service, wren.secret, 'signage')).response.status, 200);
  assert.equal((await listen(t, service, wren.secret, 'timetable')).response.status, 404);
  assert.equal((await listen(t, service, wren.secret, 'nowhere')).response.status, 404);
  assert.equal((await listen(t, service, 'vaq_nobody', 'signage')).response.status, 401);
});
