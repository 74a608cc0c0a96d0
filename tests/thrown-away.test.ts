import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes } from '@vaquero/contracts';
import { startTestService, type TestService } from './support/service.ts';

/** A recipe in which the pages hang on words, and the tests on nothing else. */
const _graph = `recipe: site
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

const _statesOf = async (service: TestService, number: number) => {
  const build = await show(service, number);
  return Object.fromEntries(build.steps.map((step) => [step.name, step.state]));
};
const show = (service: TestService, build: number) =>
  service.operator.call(buildRoutes.showBuildRoute, { params: { project: 'timetable', build } });
const linesOf = async (service: TestService, build: number, step: string) => {
  const reply = await service.operator.call(buildRoutes.logLinesRoute, {
    params: { project: 'timetable', build },
    query: { step, limit: 1000 },
  });
  return reply.lines.map((line) => line.text);
};

test('what a step writes beside what it hands on goes with it, or is kept where the recipe says', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const notes = 'mkdir -p written/.notes .tmp && echo x >> written/.notes/a && echo y > .tmp/b';
  const recipe = (run: string, caches = '') => ({
    'words.txt': 'w',
    'src/page.html': 'page',
    'vaquero.yaml': `steps:
  words: {run: mkdir -p written/deep && cp words.txt written/deep/, reads: words.txt, writes: written}
  pages:
    after: words
    run: ${JSON.stringify(run)}
    reads: [src]
    writes: out${caches}
  later: {after: pages, run: "ls -A . written > seen/list.txt; ls src", reads: [src, words.txt], writes: seen}
serve: {site: out}
`,
  });
  const run = `${notes} && rm -r written/deep && touch src/made && cp src/page.html out/index.html`;
  const first = await made.push('Notes', recipe(run));
  assert.equal(first.failure, null);
  const said = (await linesOf(service, first.number, 'pages')).join('\n');
  assert.match(said, /^thrown away: what step pages wrote to .*; a folder that is to be kept/m);
  for (const place of ['written/.notes', 'written/deep', 'src/made', '.tmp'])
    assert.match(
      said,
      new RegExp(`wrote to [^;]*(?<![\\w/])${place.replaceAll('.', '\\.')}[,;]`),
      place,
    );
  // The step after it finds what was handed on as it was, and the commit as it is.
  assert.deepEqual(await linesOf(service, first.number, 'later'), [
    'ls -A . written > seen/list.txt; ls src',
    'page.html',
  ]);
  const kept = '\n    caches: [written/.notes, .tmp]';
  for (const times of [1, 2]) {
    const again = await made.push(
      `Kept ${times}`,
      recipe(`${notes} && cat written/.notes/a > out/index.html # ${times}`, kept),
    );
    assert.equal(again.failure, null);
    assert.ok(
      !(await linesOf(service, again.number, 'pages')).some((line) => /thrown away/.test(line)),
    );
    const page = await service.page(
      `build-${again.number}.timetable.artifacts.localhost:${service.edgePort}`,
    );
    assert.equal(page.text, 'x\n'.repeat(times));
  }
});
