import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { memberPage } from './support/admission.ts';
import { giveWord, open, show } from './support/pull-requests.ts';
import { startTestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

test('what a family would have a preview of is built on a word as for it, and goes nowhere', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  // No `for`: the map alone says that pull requests are built.
  const recipe =
    'steps: {pages: {run: mkdir out && cp page.html out/index.html}}\nserve: {site: out}\n';
  await made.push('First', { 'page.html': 'x', 'vaquero.yaml': recipe });
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  const first = await fork.commit('Fares', { 'page.html': 'half fare' });
  await open(service, 'fares', fork.folder);
  assert.equal((await giveWord(service, first)).seenAt, null, 'its build has not ended');
  const build = await service.buildEnded('timetable', 2);
  assert.deepEqual([build.state, build.rules, build.live], ['passed', [], []]);
  assert.match(build.destination, /what outsiders propose reaches no environment/);
  const { seenAt, preview } = await show(service);
  assert.deepEqual([preview, seenAt?.build], [null, 2]);
  const host = `build-2.timetable.artifacts.localhost:${service.edgePort}`;
  assert.equal((await memberPage(service, host)).text, 'half fare');
  assert.equal((await service.page(host)).status, 401);
});
