import assert from 'node:assert/strict';
import { chmodSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { variableRoutes } from '@vaquero/contracts';
import { linesOf } from './support/log-lines.ts';
import { startTestService, type TestService } from './support/service.ts';

const page = readFileSync(new URL('../docs/recipe.md', import.meta.url), 'utf8');
const [whole = '', lender = ''] = [...page.matchAll(/```yaml\n(.*?)```/gs)].map(
  (match) => match[1] ?? '',
);

const logOf = async (service: TestService, build: number): Promise<string> =>
  (await linesOf(service, build)).join('\n');

/** Says a command of its own, and nothing that a shell would take for something else. */
const script = (text: string): string => `node -e "${text}"`;

test('the recipes of the documentation are built as they stand there', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_LABELS: 'large' } });
  const house = await service.project('house-steps');
  await house.push('What is lent', {
    'vaquero.yaml': `${lender.replace(/^# .*\n/, '')}serve: nothing\n`,
    'links.sh': '#!/bin/sh\nmkdir -p links && echo "$@" > links/said.txt\n',
    'dist/index.html': 'x',
  });
  const commit = await house.copy.git('rev-parse', 'HEAD');
  const made = await service.project('timetable');
  await service.operator.call(variableRoutes.setVariableRoute, {
    params: { project: 'timetable', variable: 'MAP_KEY' },
    body: { value: 'orrin-sound', kind: 'plain' },
  });
  await made.copy.commit('What the recipe needs', {
    'vaquero.yaml': whole.replace(/commit: [0-9a-f]{40}/, `commit: ${commit}`),
    'package.json': JSON.stringify({
      name: 'timetable',
      scripts: {
        data: script("require('fs').writeFileSync('dist/data.json', '{}')"),
        build: script(
          "const fs=require('fs');for (const page of ['index','404']) fs.writeFileSync('dist/'+page+'.html','<h1>'+page+process.version+process.env.MAP_KEY.length+'</h1>')",
        ),
      },
    }),
    'package-lock.json': JSON.stringify({ name: 'timetable', lockfileVersion: 3, packages: {} }),
    'src/page.js': '',
    'public/style.css': '',
    'site.config.js': '',
    'shared/words.txt': 'x',
    'desk/package.json': JSON.stringify({
      name: 'desk',
      scripts: {
        test: script("require('net').connect(3306,'127.0.0.1').on('connect',()=>process.exit(0))"),
      },
    }),
    'desk/test/database.sh': `#!/bin/sh\nexec ${script("require('net').createServer().listen(3306)")}\n`,
    'links.sh': '#!/bin/sh\nmkdir -p links && ls dist && echo "$@" > links/said.txt\n',
  });
  for (const path of ['links.sh', 'desk/test/database.sh'])
    chmodSync(join(made.copy.folder, path), 0o755);
  const build = await made.push('As it is documented', {});
  assert.equal(build.failure, null, await logOf(service, build.number));
  const states = Object.fromEntries(build.steps.map((step) => [step.name, step.state]));
  for (const name of ['packages', 'pages', 'unit', 'links'])
    assert.equal(states[name], 'passed', await logOf(service, build.number));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  assert.match((await service.page(host)).text, /^<h1>indexv22\.[\d.]+11<\/h1>$/);
  const absent = await service.page(host, '/none');
  assert.deepEqual([absent.status, absent.text.startsWith('<h1>404')], [404, true]);
});
