import assert from 'node:assert/strict';
import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { execa } from 'execa';
import { bundle, commandLine, type Said } from './support/command-line.ts';
import { changeMap, stopsFor } from './support/maps.ts';
import { addOperator } from './support/people.ts';
import { temporaryFolder, until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

test('the whole story by the command line, with its exit codes', async (t) => {
  const service = await startTestService(t);
  const home = join(service.state, 'home');
  const vaquero = commandLine(service, home);
  await addOperator(service);

  const nobody = await vaquero('live');
  assert.deepEqual([nobody.code, nobody.out], [3, '']);
  assert.match(
    nobody.err,
    /^Refused: Nobody is signed in\. \(not-signed-in\)\nNext: Sign in: vaquero sign-in/,
  );
  assert.equal((await vaquero('sign-in', 'tomas', '--password', 'wrong')).code, 3);
  assert.equal((await vaquero('sign-in', 'tomas', '--password', 'lune quay')).code, 0);
  assert.equal(statSync(join(home, 'vaquero', 'session.json')).mode & 0o777, 0o600);
  assert.match(
    (await vaquero('who')).out,
    /^Tomas Revik \(tomas\): operator of the installation$/m,
  );

  const made = await service.project('timetable');
  assert.match(
    (await vaquero('make', 'signage')).out,
    /^signage: waits for the first commit on main\nproduction +http:\/\/signage\.localhost:\d+\nstaging +http:\/\/staging\.signage/,
  );
  const token = await vaquero('make-token', 'laptop', '--kind', 'git');
  assert.match(token.out, /^vaq_[\w-]{43}$/);
  assert.match(token.err, /It is not shown again/);

  await made.push('First timetable', {
    'vaquero.yaml': recipeOf(`echo reading the tides; ${writesPage('one')}`),
  });
  const followed = await vaquero('follow', 'timetable');
  assert.equal(followed.code, 0);
  assert.match(followed.out, /^reading the tides$/m);
  assert.match(followed.err, /Build 1 passed after .*: First timetable/);
  assert.match(followed.err, /live in +staging/);

  const unasked = await vaquero('promote', 'timetable');
  assert.equal(unasked.code, 2);
  assert.match(unasked.err, /nobody is there to ask\. Add --yes/);
  const promoted = await vaquero('promote', 'timetable', '--yes');
  assert.equal(promoted.code, 0);
  assert.match(
    promoted.out,
    /^production serves build 1 [0-9a-f]{8} \w+ \w+ on \w+ since .*: deploy 1, confirmed after \d+ ms\.$/m,
  );
  assert.equal((await vaquero('promote', 'timetable', '--yes')).code, 3);

  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.match(
    (await vaquero('live')).out,
    /timetable production: build 2 .* waits to come in: “Search by harbour”, 1 commit ahead/,
  );
  await vaquero('promote', 'timetable', '--yes');
  assert.match((await vaquero('roll-back', 'timetable', '--yes')).err, /takes a reason/);
  const back = await vaquero('roll-back', 'timetable', '--yes', '--reason', 'nobody finds it');
  assert.equal(back.code, 0);
  assert.match(back.out, /Undone: deploy 2\./);
  const refused = await vaquero('promote', 'timetable', '--yes');
  assert.deepEqual([refused.code, refused.out], [3, '']);
  assert.match(
    refused.err,
    /Refused: production is held since .* by Tomas Revik: “nobody finds it”\. \(environment-held\)\nNext: /,
  );
  assert.equal((await vaquero('lift-hold', 'timetable', '--yes')).code, 0);

  const history = await vaquero('history', 'timetable');
  assert.match(history.out, /^production: 3 deploys, 1 undone$/m);
  assert.match(history.out, /^3 .*rolled-back.*still live$/m);
  const json = JSON.parse((await vaquero('history', 'timetable', '--json')).out) as {
    deploys: { number: number; undone: boolean }[];
  };
  assert.deepEqual(
    json.deploys.map((deploy) => [deploy.number, deploy.undone]),
    [
      [3, false],
      [2, true],
      [1, false],
    ],
  );

  await made.push('Broken', { 'vaquero.yaml': recipeOf('echo Error: no harbour; exit 3') });
  const failed = await vaquero('follow', 'timetable', '3');
  assert.equal(failed.code, 6);
  assert.match(
    failed.err,
    /what +Step pages ended with exit code 3\.\nline \d+ +Error: no harbour\nwhy/,
  );
  assert.equal((await vaquero('build', 'timetable', '3')).code, 0);
  assert.match((await vaquero('log', 'timetable', '3')).out, /^Error: no harbour$/m);
  assert.match((await vaquero('builds', 'timetable')).out, /^3 +failed/m);
  assert.match((await vaquero('recipe', 'timetable')).out, /^Recipe site: read from vaquero\.yaml/);
  assert.match((await vaquero('projects')).out, /^timetable +main +3 failed +hosted/m);
  assert.match((await vaquero('tokens')).out, /laptop +Git only/);

  assert.equal((await vaquero('sign-out')).code, 0);
  assert.equal((await vaquero('who')).code, 3);
});

test('wrong use and an absent service are told apart', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const mistyped = await vaquero('promot', 'timetable');
  assert.equal(mistyped.code, 2);
  assert.match(mistyped.err, /Did you mean promote\?/);
  assert.equal((await vaquero('build', 'timetable', 'x')).code, 2);
  assert.equal((await vaquero('history', 'nobody')).code, 3);
  const absent = await commandLine(service, join(service.state, 'home'), {
    VAQUERO_ADDRESS: 'http://127.0.0.1:9',
  })('live');
  assert.equal(absent.code, 4);
  assert.match(
    absent.err,
    /^Vaquero cannot be reached at http:\/\/127\.0\.0\.1:9 \(from the environment\): /,
  );
  const other = await commandLine(service, join(service.state, 'home'), {
    VAQUERO_ADDRESS: `http://127.0.0.1:${service.edgePort}`,
  })('live');
  assert.equal(other.code, 4);
  assert.match(other.err, /what answers there is not Vaquero/);
  assert.equal((await vaquero('--help')).code, 0);
});

test('what a commit says cannot steer the terminal', async (t) => {
  const service = await startTestService(t);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const made = await service.project('timetable');
  await made.push('red \u001b[31m and \u0007 bell', { 'vaquero.yaml': recipeOf(writesPage('x')) });
  for (const args of [
    ['live'],
    ['builds', 'timetable'],
    ['build', 'timetable', '1'],
    ['history', 'timetable', 'staging'],
  ]) {
    const { out, code } = await vaquero(...args);
    assert.equal(code, 0);
    // biome-ignore lint/suspicious/noControlCharactersInRegex: their absence is what is tested.
    assert.doesNotMatch(out, /[\x00-\x09\x0b-\x1f]/);
  }
});

test('a recipe file is checked without any service, each fault at its line and column', async (t) => {
  const folder = temporaryFolder(t);
  const check = async (...args: string[]): Promise<Said> => {
    const end = await execa(process.execPath, [bundle, 'check-recipe', ...args], {
      cwd: folder,
      env: { PATH: process.env.PATH ?? '', XDG_CONFIG_HOME: join(folder, 'home') },
      extendEnv: false,
      reject: false,
      stdin: 'ignore',
    });
    return { code: end.exitCode ?? -1, out: end.stdout, err: end.stderr };
  };
  writeFileSync(join(folder, 'vaquero.yml'), '');
  const absent = await check();
  assert.equal(absent.code, 2);
  assert.match(
    absent.err,
    /vaquero\.yaml is not there\. Found vaquero\.yml; what is read is vaquero\.yaml/,
  );
  const file = join(folder, 'vaquero.yaml');
  writeFileSync(file, 'steps:\n  pages:\n    run: x\n    raeds: [a]\nserve: {site: out}\n');
  const faulty = await check();
  assert.equal(faulty.code, 3);
  assert.equal(
    faulty.err,
    'vaquero.yaml:4:5: steps.pages.raeds is not a key of a recipe; did you mean “reads”?',
  );
  writeFileSync(
    file,
    'steps:\n  pages: {run: x, reads: [vaquero.yaml], writes: out}\n  more: {run: y}\nserve: {site: out}\n',
  );
  const good = await check();
  assert.deepEqual(
    [good.code, good.out],
    [
      0,
      'vaquero.yaml is in order: pages, more.\nRun in every build, since they do not say what they read and write: more.',
    ],
  );
  // Further recipes are checked beside it, their paths from the project's folder.
  mkdirSync(join(folder, '.vaquero'));
  const borrowing = `steps:
  words: {run: x, reads: [vaquero.yaml], writes: reports}
  links: {borrows: {project: house-steps, step: links, commit: ${'a'.repeat(40)}}}
`;
  writeFileSync(join(folder, '.vaquero', 'rules.yaml'), borrowing);
  const both = await check();
  assert.deepEqual(
    [both.code, both.out.split('\n').slice(2)],
    [
      0,
      [
        '.vaquero/rules.yaml is in order, which makes evidence only: words, links.',
        'Borrowed, which only the service can check: links from house-steps.',
      ],
    ],
  );
  writeFileSync(
    join(folder, '.vaquero', 'rules.yaml'),
    borrowing.replace('vaquero.yaml]', 'gone.txt]'),
  );
  const one = await check();
  assert.equal(one.code, 3);
  assert.match(one.err, /^\.vaquero\/rules\.yaml:2:\d+: .*reads "gone\.txt", which is not in/);
});

test('runners, what is overtaken, and builds of several recipes by the command line', async (t) => {
  const service = await startTestService(t);
  const home = join(service.state, 'home');
  const vaquero = commandLine(service, home, { VAQUERO_TOKEN: service.operatorSecret });
  const made = await service.project('timetable');
  assert.match((await vaquero('runners')).out, /^runner-1\s+0 of 2\s+takes builds\s+none/m);
  const added = await vaquero('add-runner', 'quay');
  assert.deepEqual([added.code, /^vaqr_[\w-]{40,}$/.test(added.out)], [0, true]);
  assert.match(added.err, /is not shown again/);
  assert.match((await vaquero('runners')).out, /^quay\s+0 of 0\s+never seen/m);
  const twice = await vaquero('add-runner', 'quay');
  assert.deepEqual([twice.code, /\(name-taken\)/.test(twice.err)], [3, true]);
  assert.match((await vaquero('drain-runner', 'runner-1')).out, /drained/);
  assert.match((await vaquero('use-runner', 'runner-1')).out, /takes builds/);
  assert.equal((await vaquero('drop-runner', 'nobody')).code, 3);
  assert.doesNotMatch((await vaquero('drop-runner', 'quay')).out, /^quay/m);

  assert.match((await vaquero('edges')).out, /^edge-1\s+serves all\s+\d+\s+20\d\d-/m);
  const edge = await vaquero('add-edge', 'pier');
  assert.deepEqual([edge.code, /^vaqe_[\w-]{40,}$/.test(edge.out)], [0, true]);
  assert.match(edge.err, /VAQUERO_EDGE_TOKEN, with VAQUERO_API and VAQUERO_STORE=elsewhere/);
  assert.match((await vaquero('edges')).out, /^pier\s+never seen\s+0\s+never/m);
  assert.doesNotMatch((await vaquero('drop-edge', 'pier')).out, /^pier/m);
  const serving = await vaquero('drop-edge', 'edge-1');
  assert.deepEqual([serving.code, /\(edge-serves\)/.test(serving.err)], [3, true]);
  assert.equal((await vaquero('add-edge', 'Two Words')).code, 2);
  assert.equal(
    (await vaquero('sweep')).out,
    'Every blob that is older than an hour is held by an artifact.',
  );

  await changeMap(service, 'timetable', (text) =>
    text.replace('staging: {follows', 'staging: {overtaken: stop, follows'),
  );

  await made.push('Two recipes', {
    'vaquero.yaml': recipeOf(writesPage('tide')),
    '.vaquero/rules.yaml': 'steps: {words: {run: echo fine}}\n',
  });
  await service.buildEnded('timetable', 2);
  assert.match((await vaquero('builds', 'timetable')).out, /^2 .*rules: Two recipes/m);
  assert.match(
    (await vaquero('recipe', 'timetable')).out,
    /^Recipe rules: read from \.vaquero\/rules\.yaml, makes evidence only: words$/m,
  );
  const evidence = await vaquero('build', 'timetable', '2');
  assert.match(evidence.out, /goes to +nowhere: it makes evidence only/);
  assert.match(evidence.out, /beside it +site: build 1 passed/);
  const slow = recipeOf(`sleep 300; ${writesPage('ebb')}`);
  await made.copy.commit('Slow', { 'vaquero.yaml': slow });
  await made.copy.push(made.remote);
  const begun = await until('it has begun', async () => {
    const said = await vaquero('build', 'timetable', '3');
    return /^pages .*running/m.test(said.out) && said.out;
  });
  assert.match(begun, /^store +~.* waiting/m);
  await made.copy.commit('Quick', { 'vaquero.yaml': recipeOf(writesPage('flow')) });
  await made.copy.push(made.remote);
  const ended = await until('it was overtaken', async () => {
    const said = await vaquero('build', 'timetable', '3');
    return said.out.startsWith('Build 3 cancelled') && said.out;
  });
  assert.match(ended, /^overtaken +by build 5, of a newer commit/m);
  assert.match(ended, /^pages .*stopped/m);
});

test('variables, findings, lines of a log and provenance by the command line', async (t) => {
  const service = await startTestService(t);
  const home = join(service.state, 'home');
  const vaquero = commandLine(service, home, { VAQUERO_TOKEN: service.operatorSecret });
  const made = await service.project('timetable');
  assert.match((await vaquero('variables', 'timetable')).out, /^No variable is set\.$/);
  const set = await vaquero(
    'set',
    'timetable',
    'MAP_KEY',
    '--secret',
    '--value',
    'low-water-at-six',
  );
  assert.match(set.out, /MAP_KEY\s+every build\s+secret\s+ines/);
  assert.doesNotMatch(set.out, /low-water/);
  await made.push('One', {
    'vaquero.yaml': recipeOf(
      `echo "key $MAP_KEY"; mkdir out; echo '<a href=gone.html>x</a>' > out/index.html`,
    ).replace('    run:', '    given: MAP_KEY\n    run:'),
  });
  assert.match(
    (await vaquero('build', 'timetable', '1')).out,
    /warning +index\.html:1 refers to gone\.html, which is not there/,
  );
  const lines = await vaquero('log', 'timetable', '1', '--step', 'pages', '--find', 'KEY');
  assert.match(lines.out, /^ +\d+ pages {2}key \[MAP_KEY\]$/m);
  const [statement, key] = [join(home, 'statement.json'), join(home, 'key.pem')];
  mkdirSync(home, { recursive: true });
  writeFileSync(statement, (await vaquero('provenance', 'timetable', '1')).out);
  writeFileSync(key, (await vaquero('signing-key')).out);
  const holds = await vaquero('check-provenance', statement, '--key', key);
  assert.deepEqual(
    [holds.code, holds.out.split('\n')[0]?.slice(0, 30)],
    [0, 'It holds: timetable/build-1, a'],
  );
  const text = readFileSync(statement, 'utf8');
  writeFileSync(statement, text.replace(/"payload": "e/, '"payload": "f'));
  assert.equal((await vaquero('check-provenance', statement, '--key', key)).code, 3);
  await stopsFor(service, 'timetable', ['broken-link']);
  const rules = await vaquero('inspection', 'timetable');
  assert.match(rules.out, /^broken-link +warning +staging /m);
  const held = await vaquero('build-again', 'timetable', '1', '--afresh');
  assert.equal(held.code, 6);
  assert.match(held.err, /The inspection stopped it: index\.html, line 1/);
  const ended = await vaquero('cancel', 'timetable', '2');
  assert.deepEqual([ended.code, /\(build-ended\)/.test(ended.err)], [3, true]);
});

test('pull requests by the command line: opened, read, given a word, built, closed', async (t) => {
  const service = await startTestService(t);
  const home = join(service.state, 'home');
  const vaquero = commandLine(service, home, { VAQUERO_TOKEN: service.operatorSecret });
  const made = await service.project('timetable');
  assert.match((await vaquero('pull-requests', 'timetable')).out, /^No pull request yet\./);
  const recipe = recipeOf(writesPage('one'), 'for: {branch: main, proposed-into: main}\n');
  await made.push('First', { 'vaquero.yaml': recipe });
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'dogs');
  const commit = await fork.commit('Dogs \u001b[31mred', { 'fares.txt': '1.5\n' });
  const opened = await vaquero(
    ...['open-pull-request', 'timetable', 'dogs', '--url', fork.folder, '--title', 'Dogs'],
  );
  assert.match(opened.out, /^pr-1 open: Dogs$/m);
  assert.match(opened.out, /^changes {4}fares\.txt \+1 -0$/m);
  assert.match(opened.out, /vaquero give-word timetable pr-1$/);
  assert.ok(!opened.out.includes('\u001b[31m'), 'a subject steers no terminal');
  assert.match((await vaquero('pull-requests', 'timetable')).out, /pr-1 +open .*an outsider’s/);
  const unasked = await vaquero('give-word', 'timetable', 'pr-1');
  assert.deepEqual([unasked.code, /Add --yes/.test(unasked.err)], [2, true]);
  const other = await vaquero('give-word', 'timetable', 'pr-1', '--commit', '0123', '--yes');
  assert.deepEqual([other.code, /is not the newest commit of pr-1/.test(other.err)], [3, true]);
  const given = await vaquero(
    ...['give-word', 'timetable', 'pr-1', '--commit', commit.slice(0, 8), '--yes'],
  );
  assert.match(given.out, /^word {7}ines, /m);
  await service.buildEnded('timetable', 2);
  assert.match((await vaquero('pull-request', 'timetable', 'pr-1')).out, /^build 2 +passed, site/m);
  assert.match(
    (await vaquero('build', 'timetable', '2')).out,
    /^proposed {3}pr-1, to be merged into main, code of an outsider/m,
  );
  assert.match((await vaquero('builds', 'timetable')).out, /pr-1: Dogs/);
  const closed = await vaquero('close-pull-request', 'timetable', 'pr-1');
  assert.deepEqual([closed.code, closed.out], [0, 'pr-1 is closed. What was built of it stays.']);
  assert.equal((await vaquero('close-pull-request', 'timetable', 'pr-1')).code, 3);
});
