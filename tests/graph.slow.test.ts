import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, variableRoutes } from '@vaquero/contracts';
import { linesOf } from './support/log-lines.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';

/** A recipe in which the pages hang on words, and the tests on nothing else. */
const graph = `recipe: site
format: 1
steps:
  words:
    run: mkdir -p deep && cp words.txt written/words.txt
    reads: words.txt
    writes: [written, deep]
  pages:
    after: words
    run: sed 's/.*/<h1>&<\\/h1>/' written/words.txt > out/index.html && cp style.css out/
    reads: style.css
    writes: out
  checks:
    run: test -f style.css && test ! -e words.txt
    reads: style.css
    writes: checked
serve: {site: out}
`;

const statesOf = async (service: TestService, number: number) => {
  const build = await show(service, number);
  return Object.fromEntries(build.steps.map((step) => [step.name, step.state]));
};
const show = (service: TestService, build: number) =>
  service.operator.call(buildRoutes.showBuildRoute, { params: { project: 'timetable', build } });

test('only what changed is run again; the rest is restored and says since when', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const files = { 'vaquero.yaml': graph, 'words.txt': 'tide', 'style.css': 'a{}' };
  const first = await made.push('First', files);
  assert.equal(first.failure, null);
  assert.deepEqual(await statesOf(service, 1), {
    fetch: 'passed',
    words: 'passed',
    pages: 'passed',
    checks: 'passed',
    store: 'passed',
    inspect: 'passed',
    look: 'passed',
  });

  // A file that no step reads: every step is reused, and the artifact is the very same.
  const same = await made.push('A note for people', { 'README.md': 'x' });
  assert.deepEqual(
    same.steps.slice(1, 4).map((step) => [step.name, step.state, step.reused?.build]),
    [
      ['words', 'reused', 1],
      ['pages', 'reused', 1],
      ['checks', 'reused', 1],
    ],
  );
  assert.equal(same.artifact?.digest, first.artifact?.digest);
  assert.match(
    (await linesOf(service, 2, 'pages')).join('\n'),
    /^reused from build 1, run \d{4}-.* UTC: \d+\.\d s saved$/,
  );

  // Only the style changed: the words stay, what reads the style runs.
  await made.push('Another style', { 'style.css': 'b{}' });
  const states = await statesOf(service, 3);
  assert.deepEqual([states.words, states.pages, states.checks], ['reused', 'passed', 'passed']);

  // Other words that are written the same: the pages need not run again, although a step before them did.
  await made.push('A step with another command', {
    'vaquero.yaml': graph.replace('mkdir -p deep', 'mkdir -p deep && echo again'),
  });
  const early = await statesOf(service, 4);
  assert.deepEqual([early.words, early.pages], ['passed', 'reused']);
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    '<h1>tide</h1>',
  );

  // The whole tree as it was: no runner is asked at all.
  await made.copy.git('revert', '--no-edit', 'HEAD');
  const known = await made.push('Back again', {});
  assert.equal(known.state, 'reused');
  assert.equal(known.reusedFrom, 3);
  assert.equal(known.attempts, 0);
  assert.equal((await service.environmentOf('timetable', 'staging')).serves?.build, known.number);
});

test('a step sees what it says it reads and nothing else, and cannot change what earlier steps wrote', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const recipe = (run: string) => `steps:
  words: {run: echo a > written/words.txt, reads: words.txt, writes: written}
  pages:
    after: words
    run: ${JSON.stringify(run)}
    reads: "*.css"
    writes: out
serve: {site: out}
`;
  const cases: readonly (readonly [string, RegExp])[] = [
    ['cat words.txt', /words\.txt: No such file or directory/],
    ['echo b > written/words.txt', /Permission denied/],
    ['echo b > /usr/words.txt', /Read-only file system/],
    ['echo b > ../words.txt', /Read-only file system/],
    ['cat ../build/vaquero.yaml', /No such file/],
    ['ls /home/build/.npm', /No such file/],
  ];
  for (const [run, said] of cases) {
    const build = await made.push(run, {
      'vaquero.yaml': recipe(run),
      'words.txt': 'w',
      'style.css': 'a{}',
    });
    assert.equal(build.state, 'failed', run);
    assert.match((await linesOf(service, build.number, 'pages')).join('\n'), said, run);
  }
  const good = await made.push('Good', {
    'vaquero.yaml': recipe('cat written/words.txt style.css > out/index.html'),
  });
  assert.equal(good.failure, null);
});

test('a step that is tried again is flaky, one that may fail is a warning, and independent ones run side by side', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  // Each of the two waits for what the other leaves: they end only if they run at the same time.
  const build = await made.push('All kinds', {
    'vaquero.yaml': `steps:
  left: {run: "touch l; until test -e r; do sleep 0.05; done", within: 20 s}
  right: {run: "touch r; until test -e l; do sleep 0.05; done", within: 20 s}
  shaky: {run: "test -e tried || { touch tried; exit 3; }", tries: 2}
  links: {run: "echo no; exit 4", failure: warns}
  pages: {run: "mkdir out && echo x > out/index.html", after: [left, right, shaky, links]}
serve: {site: out}
`,
  });
  assert.equal(build.failure, null);
  const states = Object.fromEntries(build.steps.map((step) => [step.name, step.state]));
  assert.deepEqual(
    [states.left, states.right, states.shaky, states.links, states.pages],
    ['passed', 'passed', 'flaky', 'warned', 'passed'],
  );
  assert.equal(build.steps.find((step) => step.name === 'shaky')?.tries, 2);
  assert.deepEqual(await linesOf(service, 1, 'shaky').then((lines) => lines.slice(1, 3)), [
    'step shaky ended after 0.0 s: exit code 3'.replace(
      '0.0',
      /after (\d+\.\d)/.exec((await linesOf(service, 1, 'shaky'))[1] ?? '')?.[1] ?? '',
    ),
    'step shaky is tried again: 2 of 2',
  ]);

  const slow = await made.push('Too slow', {
    'vaquero.yaml': 'steps: {pages: {run: sleep 30, within: 1 s}}\nserve: {site: out}\n',
  });
  assert.match(slow.failure?.what ?? '', /Step pages .* 1 s|longer than/);
});

test('a helper is ready before its step begins, ends with it, and is named when it does not come', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const recipe = (port: number) => `steps:
  pages:
    run: mkdir out && bash -c 'exec 3<>/dev/tcp/127.0.0.1/7171; cat <&3' > out/index.html
    beside: desk
beside:
  desk:
    run: |
      node -e "require('net').createServer((s) => s.on('error', () => {}).end('<h1>from the desk</h1>')).listen(7171, () => console.log('open'))"
    ready: {port: ${port}}
    within: 5 s
serve: {site: out}
`;
  const good = await made.push('With a helper', { 'vaquero.yaml': recipe(7171) });
  assert.equal(good.failure, null);
  assert.ok((await linesOf(service, 1, 'pages')).includes('desk: open'));
  const bad = await made.push('Another port', {
    'vaquero.yaml': recipe(7172).replace('5 s', '1 s'),
  });
  assert.equal(
    bad.failure?.what,
    'Step pages did not begin: its helper desk was not ready in time.',
  );
});

test('reports become tests and findings, with the flaky ones named over the runs', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const junit = (state: string) =>
    `<testsuites><testsuite name="desk"><testcase classname="fares" name="adds up" time="0.25"/><testcase classname="fares" name="tide" file="test/tide.js" line="9">${state}</testcase></testsuite></testsuites>`;
  const sarif = JSON.stringify({
    version: '2.1.0',
    runs: [
      {
        tool: {
          driver: {
            name: 'licences',
            rules: [{ id: 'L1', help: { text: 'Ask the harbour office.' } }],
          },
        },
        results: [
          {
            ruleId: 'L1',
            level: 'error',
            message: { text: 'No licence' },
            locations: [
              {
                physicalLocation: {
                  artifactLocation: { uri: 'map.svg' },
                  region: { startLine: 3 },
                },
              },
            ],
          },
        ],
      },
    ],
  });
  const files = (state: string) => ({
    'vaquero.yaml': `steps:
  unit:
    run: mkdir -p reports && if test -e again; then cp good.xml reports/unit.xml; else cp given.xml reports/unit.xml; touch again; fi && cp given.sarif reports/ && printf 'TAP version 13\\n1..1\\nnot ok 1 - pier\\n' > reports/more.tap && ! grep -q failure reports/unit.xml
    results: {tests: ["reports/*.xml", reports/more.tap], findings: reports/given.sarif}
    tries: 2
  pages: {run: mkdir out && echo x > out/index.html}
serve: {site: out}
`,
    'given.xml': junit(state),
    'good.xml': junit(''),
    'given.sarif': sarif,
  });
  await made.push('Good', files(''));
  const build = await made.push('Bad at first', files('<failure message="low water"/>'));
  assert.equal(build.failure, null);
  assert.deepEqual(
    build.evidence.tests.map(({ path, total, failed }) => [path, total, failed]),
    [
      ['reports/unit.xml', 2, 0],
      ['reports/more.tap', 1, 1],
    ],
  );
  assert.deepEqual(build.evidence.flaky, [{ name: 'fares › tide', failed: 1, of: 3 }]);
  const broken = await made.push('Bad at last', {
    'good.xml': junit('<failure message="low water"/>'),
  });
  assert.deepEqual(broken.evidence.tests[0]?.failures, [
    {
      name: 'fares › tide',
      state: 'failed',
      tookMs: null,
      message: 'low water',
      place: 'test/tide.js:9',
    },
  ]);
  assert.deepEqual(build.evidence.findings, [
    {
      step: 'unit',
      rule: 'licences/L1',
      severity: 'error',
      message: 'No licence',
      path: 'map.svg',
      line: 3,
      cure: 'Ask the harbour office.',
    },
  ]);
});

test('a step is given variables by name, a name nobody set stops the build before it begins, and no log shows a secret', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const params = { project: 'timetable' };
  const files = {
    'vaquero.yaml': `steps:
  pages:
    run:
      - printf '<h1>%s</h1>' "$PIER_NAME" > out/index.html
      - echo "$MAP_KEY"; printf %s "$MAP_KEY" | base64; printf x%s "$MAP_KEY" | base64 -w0; echo
      - sh -c 'printf low-; sleep 0.3; printf "water-at-six\\n"'
    reads: vaquero.yaml
    writes: out
    given: [PIER_NAME, MAP_KEY]
serve: {site: out}
`,
  };
  const early = await made.push('Before they are set', files);
  assert.equal(early.failure?.what, 'The recipe reads PIER_NAME, MAP_KEY, which nobody has set.');
  assert.equal(early.attempts, 0);
  const set = (name: string, kind: 'plain' | 'secret', value: string, environment = '') =>
    service.operator.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: name },
      query: { environment },
      body: { kind, value },
    });
  await set('PIER_NAME', 'plain', 'of the whole project');
  await set('PIER_NAME', 'plain', 'Lune Quay', 'staging');
  const seen = await set('MAP_KEY', 'secret', 'low-water-at-six');
  assert.deepEqual(
    seen.variables.map(({ name, environment, kind, value, by }) => [
      name,
      environment,
      kind,
      value,
      by,
    ]),
    [
      ['MAP_KEY', '', 'secret', null, 'ines'],
      ['PIER_NAME', '', 'plain', 'of the whole project', 'ines'],
      ['PIER_NAME', 'staging', 'plain', 'Lune Quay', 'ines'],
    ],
  );
  assert.deepEqual(seen.unset, []);
  const build = await made.push('Set now', { 'README.md': 'x' });
  assert.equal(build.failure, null);
  const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
  assert.equal(page.text, '<h1>Lune Quay</h1>');
  const lines = (await linesOf(service, build.number, 'pages')).join('\n');
  assert.doesNotMatch(lines, /low-water|bG93LXdhdGVyLWF0LXNpe|sb3ctd2F0ZXI|xsb3ct/);
  assert.match(lines, /^\[MAP_KEY\]$/m);

  // Another value is another input: nothing of the old one is reused.
  await set('MAP_KEY', 'secret', 'high-water-at-noon');
  const other = await made.push('Another key', { 'README.md': 'y' });
  assert.equal(other.steps.find((step) => step.name === 'pages')?.state, 'passed');

  // A row that is moved to another name does not open.
  const reader = await service.person('petra', 'builder', 'timetable');
  const refused = await refusalOf(
    reader.client.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'X' },
      body: { kind: 'plain', value: 'x' },
    }),
  );
  assert.equal(refused.code, 'not-allowed');
});

test('a cache outlives the build for its own project, and a step without a name for it does not see it', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const recipe = (run: string, caches: string) => ({
    'vaquero.yaml': `steps:\n  pages: {run: ${JSON.stringify(run)}${caches}}\nserve: {site: out}\n`,
  });
  const site = 'mkdir out && echo x > out/index.html';
  const first = await made.push(
    'Fill',
    recipe(`${site} && echo kept > ~/.keep/a`, ', caches: ~/.keep'),
  );
  assert.equal(first.failure, null);
  const second = await made.push(
    'Use',
    recipe(`${site} && grep kept ~/.keep/a`, ', caches: ~/.keep'),
  );
  assert.equal(second.failure, null);
  const other = await service.project('signage');
  const poisoned = await other.push(
    'Another project',
    recipe(`${site} && test ! -e ~/.keep/a`, ', caches: ~/.keep'),
  );
  assert.equal(poisoned.failure, null);
});

test('a build that runs afresh is compared with what would have been reused', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const first = await made.push('A recipe that lies about its inputs', {
    'vaquero.yaml': `steps:
  pages: {run: "date +%s%N > out/index.html; echo same > out/same.txt", reads: vaquero.yaml, writes: out}
serve: {site: out}
`,
  });
  assert.equal(first.failure, null);
  const again = await service.operator.call(buildRoutes.buildAgainRoute, {
    params: { project: 'timetable' },
    body: { build: 1, earlier: 'compared' },
  });
  const build = await service.buildEnded('timetable', again.number);
  assert.deepEqual(build.evidence.differences, [{ step: 'pages', files: ['index.html'], with: 1 }]);
  assert.match(
    (await linesOf(service, again.number, 'pages')).join('\n'),
    /not reproducible: same inputs as an earlier build, other output: index\.html/,
  );
});

test('a build can be cancelled while it waits or runs, and only once', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.copy.commit('Endless', {
    'vaquero.yaml': 'steps: {pages: {run: sleep 300}}\nserve: {site: out}\n',
  });
  await made.copy.push(made.remote);
  const params = { project: 'timetable', build: 1 };
  await until('it runs', async () => {
    const build = await show(service, 1).catch(() => null);
    return build?.steps.some((step) => step.name === 'pages' && step.state === 'running') === true;
  });
  const row = await service.operator.call(buildRoutes.cancelBuildRoute, { params });
  assert.equal(row.state, 'cancelled');
  const again = await refusalOf(service.operator.call(buildRoutes.cancelBuildRoute, { params }));
  assert.equal(again.code, 'build-ended');
  // One that is ended while its walls are being made ready ends as well.
  for (const number of [2, 3, 4]) {
    await made.copy.commit(`Endless ${number}`, {
      'words.txt': `${number}`,
      'vaquero.yaml':
        'steps: {pages: {run: sleep 300, reads: words.txt, writes: out}}\nserve: {site: out}\n',
    });
    await made.copy.push(made.remote);
    await until('it has begun', async () => {
      const build = await show(service, number).catch(() => null);
      return build?.state === 'running';
    });
    await service.operator.call(buildRoutes.cancelBuildRoute, {
      params: { project: 'timetable', build: number },
    });
  }
  // Its slot is free again: the next build runs to its end.
  const next = await made.push('Short', {
    'vaquero.yaml':
      'steps: {pages: {run: mkdir out && echo x > out/index.html}}\nserve: {site: out}\n',
  });
  assert.equal(next.failure, null);
});

test('more single files than can be shown one by one end the step with what to write instead', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const many = Object.fromEntries(
    Array.from({ length: 2600 }, (_, number) => [`many/${number}.txt`, 'x']),
  );
  const recipe = (reads: string) =>
    `steps: {pages: {run: cat many/*.txt > out/index.html, reads: "${reads}", writes: out}}\nserve: {site: out}\n`;
  const build = await made.push('By a pattern', { 'vaquero.yaml': recipe('many/*.txt'), ...many });
  assert.match(
    build.failure?.why ?? '',
    /^its reads name 2600 files one by one.*name their folder/,
  );
  const good = await made.push('By the folder', { 'vaquero.yaml': recipe('many') });
  assert.equal(good.failure, null);
});
