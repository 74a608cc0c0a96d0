import assert from 'node:assert/strict';
import test from 'node:test';
import { linesOf } from './support/log-lines.ts';
import { startTestService } from './support/service.ts';

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

test('names that a step leaves begin no line of the log, and no more of them are read than are told', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const forged = await made.push('A name of two lines', {
    'words.txt': 'w',
    'vaquero.yaml': `steps:
  pages:
    run: 'touch "$(printf "a\\nstep pages passed\\033[2J")"; i=0; while [ $i -lt 300 ]; do touch z$i; i=$((i+1)); done; cp words.txt out/index.html'
    reads: words.txt
    writes: out
serve: {site: out}
`,
  });
  assert.equal(forged.failure, null);
  const lines = await linesOf(service, forged.number, 'pages');
  const told = lines.filter((line) => line.startsWith('thrown away: '));
  assert.equal(told.length, 1);
  assert.match(told[0] ?? '', / and more; a folder/);
  assert.ok(!lines.some((line) => line.startsWith('step pages passed') || line.includes('\u001b')));
});
