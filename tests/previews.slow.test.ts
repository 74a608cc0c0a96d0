import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { admissionRoutes, auditRoutes, previewRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { memberPage } from './support/admission.ts';
import { commandLine } from './support/command-line.ts';
import { gone, names, serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };
const dayMs = 86_400_000;

test('previews are listed with whose they are, kept until a day, and ended several at once', async (t) => {
  let ahead = 0;
  const service = await startTestService(t, { clock: () => (Date.now() + ahead) as Instant });
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await changeMap(service, project, (text) =>
    text.replace(
      'each: {proposed-into: main}',
      'each: {proposed-into: main, branch: "look/*"}, at-most: 3',
    ),
  );
  for (const branch of ['look/a', 'look/b', 'try/c']) {
    await made.copy.git('checkout', '--quiet', '-B', branch, 'main');
    await made.copy.commit(branch, { 'vaquero.yaml': recipeOf(writesPage(branch)) });
    await made.copy.git('push', '--quiet', made.remote, branch);
  }
  await vaquero('open-pull-request', project, 'try/c');
  await serves(service, 'look-a', 2);
  await serves(service, 'look-b', 3);
  await until('pr-1 lives', async () => (await names(service)).includes('pr-1'));
  const list = async () => {
    const reply = await service.operator.call(previewRoutes.listPreviewsRoute, { params });
    return new Map(reply.previews.map((one) => [one.name, one]));
  };
  const all = await list();
  assert.deepEqual(
    [...all.values()].map(({ name, family }) => [name, family.owner?.name, family.kept]).sort(),
    [
      ['look-a', 'ines', null],
      ['look-b', 'ines', null],
      ['pr-1', 'ines', null],
    ],
  );
  assert.ok((all.get('look-a')?.bytes ?? 0) > 0);
  assert.equal((all.get('look-a')?.startedAt ?? 0) > Date.now() - 600_000, true);

  // Whoever may end one may keep it; one of the family stays free, and a moment of the coming year it must be.
  const wren = await service.person('wren', 'reader', project);
  const keep = (name: string, days: number, client = service.operator) =>
    client.call(previewRoutes.keepPreviewRoute, {
      params: { ...params, environment: name },
      body: { until: new Date(Date.now() + ahead + days * dayMs).toISOString() },
    });
  assert.equal((await refusalOf(keep('look-a', 30, wren.client))).code, 'not-allowed');
  assert.equal((await refusalOf(keep('staging', 30))).code, 'not-a-family');
  assert.equal((await refusalOf(keep('look-a', -1))).code, 'kept-too-long');
  assert.equal((await refusalOf(keep('look-a', 400))).code, 'kept-too-long');
  const kept = await vaquero(
    'keep',
    project,
    'look-a',
    '--until',
    '30d',
    '--reason',
    'the office decides',
  );
  assert.match(kept.out, /^look-a is kept until 20\d\d-/);
  await keep('pr-1', 40);
  assert.equal((await refusalOf(keep('look-b', 30))).code, 'too-many-kept');
  const shown = await vaquero('previews', project, '--kept');
  assert.match(shown.out, /^look-a .*kept by ines: the office decides$/m);
  assert.doesNotMatch(shown.out, /look-b/);
  assert.equal((await vaquero('keep', project, 'look-a')).code, 2);
  assert.equal((await vaquero('keep', project, 'look-a', '--until', 'soon')).code, 2);

  // A visit puts the end off; its owner is told two hours before.
  await memberPage(service, `look-b.${project}.localhost`);
  await until('the visit is known', async () => (await list()).get('look-b')?.lastVisitAt != null);
  ahead = 14 * dayMs - 3_600_000;
  const soon = (await list()).get('look-b');
  assert.deepEqual([soon?.family.endsSoon, soon?.family.endsOf], [true, 'untouched']);
  assert.match((await vaquero('previews', project)).out, /^look-b ends soon.*; it is ines’s\.$/m);

  // What nobody keeps ends; what somebody keeps stays, until they do no longer.
  ahead = 15 * dayMs;
  await changeMap(service, project, (text) => `${text}# calm seas\n`);
  await gone(service, 'look-b');
  assert.deepEqual((await names(service)).toSorted(), ['look-a', 'pr-1', 'production', 'staging']);
  const letGo = await vaquero('keep', project, 'look-a', '--no-longer');
  assert.match(letGo.err, /^look-a ends when the map says so\.$/m);
  const absent = await vaquero('end', project, 'pr-1', 'nowhere', '--yes');
  assert.deepEqual([absent.code, /no environment nowhere/.test(absent.err)], [3, true]);
  const host = `pr-1.${project}.localhost`;
  const { pass } = await service.operator.call(admissionRoutes.passRoute, { body: { host } });
  const ended = await vaquero('end', project, 'pr-1', 'look-a', '--yes');
  assert.match(ended.err, /^pr-1 has ended\..*\nlook-a has ended\./m);
  // They stand in the list of those that ended, with why; what lives again has no end.
  const { out } = await vaquero('previews', project);
  assert.match(out, /^No such preview lives\.$/m);
  assert.match(out, /^pr-1 ended .*: somebody ended it, ines\.$/m);
  assert.match(out, /^look-b ended .*: nothing came to it for long\.$/m);
  const back = await service.operator.call(previewRoutes.listPreviewsRoute, { params });
  assert.deepEqual(back.ended.map(({ name, because }) => [name, because]).toSorted(), [
    ['look-a', 'asked'],
    ['look-b', 'untouched'],
    ['pr-1', 'asked'],
  ]);
  // Its address says who ended it to members alone, and where the bytes are still.
  const end = await service.page(host, '/', { 'vaquero-pass': pass });
  assert.equal(end.status, 410);
  assert.match(
    end.text,
    /somebody ended it \(ines\)\. The same bytes still answer at <a href="[^"]*build-\d+\./,
  );
  const stranger = (await service.page(host)).text;
  assert.match(stranger, /: somebody ended it\. What it served/);
  const { entries } = await service.operator.call(auditRoutes.auditRoute, { params });
  assert.deepEqual(
    entries
      .filter(({ kind }) => kind.startsWith('environment.kept'))
      .map(({ kind }) => kind)
      .toSorted(),
    ['environment.kept', 'environment.kept', 'environment.kept-no-longer'],
  );
});
