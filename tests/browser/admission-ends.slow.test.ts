import assert from 'node:assert/strict';
import test from 'node:test';
import { admissionRoutes, edgeRoutes, memberRoutes } from '@vaquero/contracts';
import { readEdgeConfig, startEdge } from '@vaquero/edge';
import { addPerson, grantInProject, makeLog } from '@vaquero/service';
import type { Page } from 'playwright-core';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { atEnd, freePort, temporaryFolder, until } from '../support/place.ts';
import type { TestService } from '../support/service.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const project = 'timetable';

/** A preview that is lent by a link, at its first edge. */
async function preview(service: TestService): Promise<string> {
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await changeMap(service, project, (text) =>
    text.replace('each: {proposed-into: main}', 'each: {branch: "try/*"}, admits: link'),
  );
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  await made.copy.commit('Quay', { 'vaquero.yaml': recipeOf(writesPage('quay')) });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await until('the preview is served', async () => {
    const found = await service.environmentOf(project, 'try-quay').catch(() => null);
    return found?.serves?.confirmedAt != null;
  });
  return `http://try-quay.${project}.localhost`;
}

const seen = (page: Page) => page.getByRole('heading', { name: 'quay', exact: true }).waitFor();

test('a pass holds at every edge and with the api away, until its hour is over; a link until it is closed', async (t) => {
  let late = 0;
  const clock = () => (Date.now() + late) as never;
  const { service, page } = await openConsole(t, { clock });
  const at = await preview(service);
  const { token } = await service.operator.call(edgeRoutes.addEdgeRoute, {
    body: { name: 'pier' },
  });
  const port = await freePort();
  const pier = await startEdge({
    config: readEdgeConfig({
      VAQUERO_STATE: temporaryFolder(t),
      VAQUERO_API: service.address,
      VAQUERO_EDGE_TOKEN: token,
      VAQUERO_EDGE_PORT: String(port),
      VAQUERO_STORE: 'elsewhere',
    }),
    log: makeLog('test', 'fatal'),
    clock,
  });
  atEnd(t, pier.stop);
  const [first, second] = [`${at}:${service.edgePort}/`, `${at}:${port}/`];
  const browser = page.context().browser() ?? assert.fail('no browser');
  const apart = async (): Promise<Page> => {
    const context = await browser.newContext();
    atEnd(t, () => context.close());
    return context.newPage();
  };

  // A link opens it for whoever has it, and nobody else of that browser's kind.
  const params = { project, environment: 'try-quay' };
  const { address } = await service.operator.call(admissionRoutes.lendRoute, { params });
  const lent = await apart();
  await lent.goto(address);
  await seen(lent);
  assert.equal(new URL(lent.url()).search, '', 'the key is out of the address');
  await service.operator.call(admissionRoutes.closeLinkRoute, { params });
  await until('the edge knows', async () => {
    await lent.goto(first);
    return (await lent.getByRole('heading', { name: 'Sign in to Vaquero' }).count()) === 1;
  });

  // Whose grant has ended is let in until the hour is over, and sent away then.
  const id = await addPerson(service.deps, {
    name: 'noor',
    shownAs: 'Noor',
    password: 'far holm',
    role: null,
  });
  await grantInProject(service.deps, { personId: id, project, role: 'reader' });
  const theirs = await apart();
  await theirs.goto(first);
  await theirs.getByLabel('Name').fill('noor');
  await theirs.getByLabel('Password').fill('far holm');
  await theirs.getByRole('button', { name: 'Sign in' }).click();
  await seen(theirs);
  await theirs.goto(second);
  await seen(theirs);
  await service.operator.call(memberRoutes.endGrantRoute, { params: { project, person: 'noor' } });
  await theirs.goto(first);
  await seen(theirs);
  late = 3_600_001;
  for (const address of [first, second]) {
    await theirs.goto(address);
    await theirs.getByText(/is not for you to see/).waitFor();
  }

  // With the api away who has a pass goes on, and others are told why they do not.
  await page.goto(first);
  await seen(page);
  await service.stopApi();
  await page.goto(first);
  await seen(page);
  await page.goto(second);
  await seen(page);
  const stranger = await apart();
  await until('they are told', async () => {
    await stranger.goto(first);
    return (await stranger.getByText(/that is not reached now/).count()) === 1;
  });
});
