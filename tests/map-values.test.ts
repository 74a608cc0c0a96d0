import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { mapRoutes, variableRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { refusalOf, startTestService } from './support/service.ts';

const project = 'timetable';
const params = { project };

test('the map says whose it is to set the values of an environment; they go with its rule', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  const noor = await service.person('noor', 'builder', project);
  const ada = await service.person('ada', 'maintainer', project);
  const set = (client: typeof noor.client, environment: string) =>
    client.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'NOTICE_LEVEL' },
      query: { environment },
      body: { kind: 'plain', value: 'storm' },
    });
  assert.equal((await refusalOf(set(noor.client, 'staging'))).code, 'not-allowed');
  await changeMap(service, project, (text) =>
    text.replace('{follows: {branch: main}}', '{follows: {branch: main}, may: {values: [noor]}}'),
  );
  const { places } = await set(noor.client, 'staging');
  assert.deepEqual(
    places.map(({ environment, may, who }) => [environment, may, who]),
    [
      ['', false, 'a maintainer'],
      ['staging', true, 'noor'],
      ['preview', false, 'a maintainer'],
    ],
  );
  const drop = (client: typeof noor.client, environment: string) =>
    client.call(variableRoutes.dropVariableRoute, {
      params: { ...params, variable: 'NOTICE_LEVEL' },
      query: { environment },
    });
  assert.equal((await refusalOf(set(noor.client, ''))).code, 'not-allowed');
  assert.equal((await refusalOf(set(noor.client, 'nowhere'))).code, 'not-allowed');
  const problem = await refusalOf(set(ada.client, 'staging'));
  assert.equal(problem.code, 'map-says-who');
  assert.equal((await refusalOf(drop(ada.client, 'staging'))).code, 'map-says-who');
  assert.equal((await refusalOf(set(ada.client, 'nowhere'))).code, 'not-found');

  // What goes, and whose rights change, is said before; then it is gone, also for a later rule of that name.
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { text } = await service.operator.call(mapRoutes.showMapRoute, { params });
  const file = join(service.state, 'map.yaml');
  const without = text.replace(/^ {2}production.*\n/m, '').replace('production, ', '');
  writeFileSync(file, without.replaceAll('staging', 'quay').replace(/, may: .*\}$/m, '}'));
  const tried = await vaquero('try-map', project, file);
  assert.match(tried.out, /^values +of staging go with it: NOTICE_LEVEL$/m);
  writeFileSync(
    file,
    text.replace('may: {values: [noor]}', 'may: {values: builder, promote: [ada]}'),
  );
  assert.match(
    (await vaquero('try-map', project, file)).out,
    /^rights +ada, staging: also sets values$/m,
  );
  await changeMap(service, project, () => without.replaceAll('staging', 'quay'), [
    'staging',
    'production',
  ]);
  await changeMap(service, project, () => text, ['quay']);
  const shown = await service.operator.call(variableRoutes.listVariablesRoute, { params });
  assert.deepEqual(shown.variables, []);

  // The versions say what each changed, and any two are held against each other.
  const versions = await vaquero('map-versions', project);
  assert.match(versions.out, /^2 .* staging changed +tried$/m);
  const against = await vaquero('map-versions', project, '2', '--against', '1');
  assert.match(against.out, /^- {3}staging: \{follows: \{branch: main\}\}$/m);
  assert.match(against.out, /^\+ {3}staging: .*may: \{values: \[noor\]\}\}$/m);
  assert.equal((await vaquero('map-versions', project, '1', '--against', '99')).code, 3);
  assert.equal((await vaquero('map-versions', project, '--against', '1')).code, 2);
});
