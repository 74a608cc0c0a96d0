import assert from 'node:assert/strict';
import { existsSync, mkdirSync, readdirSync, statSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { type BuildReply, buildRoutes, recipeRoutes, variableRoutes } from '@vaquero/contracts';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import { makeLog } from '@vaquero/service';
import { execa } from 'execa';
import { runnerAlone } from './support/another-runner.ts';
import { temporaryFolder } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

async function logOf(service: TestService, project: string, build: number): Promise<string> {
  const address = `${service.address}/api/projects/${project}/builds/${build}/log`;
  const headers = { authorization: `Bearer ${service.operatorSecret}` };
  return (await fetch(address, { headers })).text();
}

/** A recipe of one step that says what it reads and writes. */
const reusable = (run: string, reads: string, more = ''): string =>
  `steps:\n  pages:\n    run: ${JSON.stringify(run)}\n    reads: ${reads}\n    writes: [out]\n${more}serve: {site: out}\n`;

const needsRoot = process.getuid?.() === 0 ? false : 'only root gives builds a uid of their own';

test('what a commit brings leads nobody out of the walls', { skip: needsRoot }, async (t) => {
  const service = await startTestService(t);
  const outside = temporaryFolder(t);
  let number = 0;
  /** Pushes files, and links by where they lead, to a project of its own. */
  const build = async (
    files: Record<string, string>,
    links: Record<string, string> = {},
  ): Promise<BuildReply & { log: string; project: string }> => {
    number += 1;
    const project = `hostile-${number}`;
    const made = await service.project(project);
    for (const [path, target] of Object.entries(links)) {
      mkdirSync(join(made.copy.folder, path, '..'), { recursive: true });
      symlinkSync(target, join(made.copy.folder, path));
    }
    const ended = await made.push('A stranger’s commit', files);
    return { ...ended, log: await logOf(service, project, ended.number), project };
  };

  await t.test('a character that would end an argument is a fault with its place', async () => {
    const keys = [
      'caches: ["~/c\\0--share-net"]',
      'sets: {A: "x\\0--cap-add\\0ALL"}',
      'in: "a\\0b"',
      'writes: ["out\\0x"]',
      'reads: ["\\e[2J"]',
      'run: "true\\0"',
    ];
    const steps = keys.map(
      (key, n) => `  s${n}:\n    ${key.startsWith('run') ? '' : 'run: "true"\n    '}${key}\n`,
    );
    const { reason } = await build({
      'vaquero.yaml': `steps:\n${steps.join('')}serve: {site: out}\n`,
    });
    assert.ok(reason?.reason === 'recipe-invalid');
    assert.deepEqual(
      reason.faults.map(({ line, column }) => [line, column]),
      [
        [4, 14],
        [7, 15],
        [10, 9],
        [13, 14],
        [16, 13],
        [18, 10],
      ],
    );
    for (const { message } of reason.faults)
      assert.match(message, /control character U\+00(?:00|1B)/);
  });

  await t.test(
    'nor comes one by the api: not in a variable, not in a recipe, not in a name',
    async () => {
      const made = await service.project('by-call');
      await made.push('A page', { 'index.html': 'x' });
      const params = { project: 'by-call' };
      const toA = { ...params, variable: 'A' };
      const variable = { kind: 'plain' as const };
      const refused = [
        await refusalOf(
          service.operator.call(variableRoutes.setVariableRoute, {
            params: toA,
            body: { ...variable, value: 'x\0--bind\0/' },
          }),
        ),
        await refusalOf(
          service.operator.call(recipeRoutes.acceptRecipeRoute, {
            seen: '*',
            params,
            body: { run: { pages: ['true\0'] } },
          }),
        ),
        await refusalOf(
          service.operator.call(recipeRoutes.acceptRecipeRoute, {
            seen: '*',
            params,
            body: { entry: 'a\u001b[2J' },
          }),
        ),
      ];
      assert.deepEqual(
        refused.map(({ code, status }) => [code, status]),
        refused.map(() => ['invalid-request', 400]),
      );
      // Line ends are part of some values.
      await service.operator.call(variableRoutes.setVariableRoute, {
        params: toA,
        body: { ...variable, value: 'one\r\n\ttwo' },
      });
    },
  );

  await t.test('values reach a step as they are, and are no arguments of any program', async () => {
    const value = '--bind / /mnt "$HOME" `id` \\ ü\nHARBOUR';
    const { state, log } = await build({
      'vaquero.yaml': `steps:\n  pages:\n    sets: {A: ${JSON.stringify(value)}, EMPTY: "", IFS: "/", GLOBIGNORE: "/proc/self/fd/*", BASH_ENV: /tmp/none}\n    run: |\n      echo begins; printf '<%s>' "$A" "$EMPTY"; echo; cat /proc/*/cmdline | tr '\\0' '\\n' | grep -c [H]ARBOUR; ls /mnt 2>&1; ls /proc/self/fd | tr '\\n' ' '\n      ${writesPage('x')}\nserve: {site: out}\n`,
    });
    assert.equal(state, 'passed', log);
    assert.ok(log.includes(`<${value}><>\n0\n`), log);
    assert.match(log, /^0 1 2 \d+ $/m, 'descriptors of the walls are open inside');
  });

  await t.test('a committed link is shown as a link, and one that leads out is named', async () => {
    const recipe = (path: string) =>
      reusable(
        `ls -l ${path}; cat ${path}/hosts ${path}/page || true; ${writesPage('x')}`,
        `[${path}, pages]`,
      );
    for (const [target, said] of [
      ['/', '“/”'],
      ['../..', '../..'],
      ['pages/../../etc', 'etc'],
    ] as const) {
      const { failure, reason } = await build(
        { 'vaquero.yaml': recipe('x'), 'pages/page': 'moored' },
        { x: target },
      );
      assert.ok(reason?.reason === 'step' && reason.end.kind === 'paths');
      assert.match(
        failure?.why ?? '',
        /^vaquero\.yaml, line 4, column 13: it reads "x", and "x" is a link that leads out of the tree, to "/,
        said,
      );
    }
    const within = await build(
      { 'vaquero.yaml': recipe('x'), 'pages/page': 'moored' },
      { x: 'pages' },
    );
    assert.equal(within.state, 'passed', within.log);
    assert.match(within.log, /^moored/m);
    const through = await build({ 'vaquero.yaml': recipe('x/inner') }, { x: '/etc' });
    assert.match(through.failure?.why ?? '', /"x" on the way to it is a link/);
  });

  await t.test('no folder is made, given away or removed through a link', async () => {
    const before = statSync(outside);
    for (const [path, reads] of [
      ['x/made', '[.]'],
      ['x', '[.]'],
      ['x/made', '[vaquero.yaml]'],
    ]) {
      const files = {
        'vaquero.yaml': `steps:\n  pages: {run: "mkdir -p out; echo x > out/index.html", reads: ${reads}, writes: [out, ${path}]}\nserve: {site: out}\n`,
      };
      const { failure, reason, log } = await build(files, { x: outside });
      assert.ok(reason?.reason === 'step' && reason.end.kind === 'paths', log);
      assert.match(failure?.why ?? '', /is a link; name/);
    }
    assert.deepEqual(readdirSync(outside), []);
    assert.deepEqual([statSync(outside).uid, statSync(outside).mode], [before.uid, before.mode]);
  });

  await t.test(
    'folders for what is written below what is read are made and taken away by the build itself',
    async () => {
      const made = await service.project('covered');
      const recipe = (word: string): string =>
        `steps:
  data: {run: "find . -type d | sort; echo ${word} > deep/made/data", reads: [., deep], writes: [deep/made]}
  pages: {run: "cat deep/made/data; ls -ld deep/made; mkdir -p out/a; cp deep/made/data out/index.html", after: data, reads: ["."], writes: [out]}
serve: {site: out}
`;
      for (const word of ['ebb', 'flood']) {
        const ended = await made.push(word, {
          'vaquero.yaml': recipe(word),
          'deep/er/file': 'x',
        });
        const log = await logOf(service, 'covered', ended.number);
        assert.equal(ended.state, 'passed', log);
        // What the mounts of the build before stood on is gone: Git knows no empty folder.
        assert.match(log, /^\.\n\.\/deep\n\.\/deep\/er\n\.\/deep\/made\n\.\/out$/m);
      }
    },
  );

  await t.test(
    'a mount of an earlier step’s output does not follow a link that a later step made',
    async () => {
      const { failure, reason, log } = await build({
        'vaquero.yaml': `steps:
  data: {run: "echo x > data/x", reads: [vaquero.yaml], writes: [data]}
  swap: {run: "ln -s ${outside} data"}
  pages: {run: "mkdir -p out; echo x > out/index.html", after: [data, swap]}
serve: {site: out}
`,
      });
      assert.ok(reason?.reason === 'step' && reason.end.kind === 'paths', log);
      assert.match(failure?.why ?? '', /"data" is written, and it is a link/);
      assert.deepEqual(readdirSync(outside), []);
    },
  );

  await t.test(
    'reports are read as the build could read them: no link, no pipe, nothing of the host',
    async () => {
      const report = `<testsuite><testcase name="tide"/></testsuite>`;
      const shell = `mkdir -p out reports; echo x > out/index.html; echo '${report}' > reports/a.xml; ln -s /etc/hosts reports/b.xml; mkfifo reports/c.xml; ln -s /proc/1/environ reports/d.xml; truncate -s 5M reports/e.xml; cp reports/a.xml 'reports/f
g.xml'`;
      for (const more of ['', '    reads: [vaquero.yaml]\n    writes: [out]\n']) {
        const results = `    results: {tests: "reports/*.xml"}\n${more}`;
        const ended = await build({ 'vaquero.yaml': recipeOf(shell, results) });
        assert.equal(ended.state, 'passed', ended.log);
        for (const name of ['b', 'd'])
          assert.match(
            ended.log,
            new RegExp(`^the report reports/${name}\\.xml is a link and was not read$`, 'm'),
          );
        assert.match(ended.log, /^the report reports\/e\.xml is over 4 MiB and was not read$/m);
        assert.deepEqual(ended.evidence.tests.map(({ path }) => path).sort(), [
          'reports/a.xml',
          'reports/f\ng.xml',
        ]);
      }
    },
  );

  await t.test(
    'what a build makes the runner throw ends that build with the reason, and nothing else',
    async () => {
      const deep = `mkdir -p out; echo x > out/index.html; cd out; i=0; while [ $i -lt 300 ]; do mkdir dddddddddd && cd dddddddddd || exit 1; i=$((i+1)); done`;
      const { failure, reason, log } = await build({
        'vaquero.yaml': reusable(deep, '[vaquero.yaml]'),
      });
      assert.equal(reason?.reason, 'runner-fault', log);
      assert.match(failure?.why ?? '', /path of over 1000 characters/);
      assert.ok(!JSON.stringify(failure).includes(service.state), 'a path of the host shows');
      assert.equal((await build({ 'index.html': 'x' })).state, 'passed');
    },
  );

  await t.test(
    'a log of nothing but line ends is kept, looked through and told, and others are answered',
    async () => {
      const { state, project, number, failure } = await build({
        'vaquero.yaml': recipeOf(
          "yes '' | head -c 30000000; echo 'cat: fares: No such file or directory'; exit 3",
        ),
      });
      assert.equal(state, 'failed');
      assert.match(failure?.what ?? '', /exit code 3/);
      const reply = await service.operator.call(buildRoutes.showBuildRoute, {
        params: { project, build: number },
      });
      assert.equal(reply.tellingLine?.text, 'cat: fares: No such file or directory');
      assert.ok((reply.tellingLine?.number ?? 0) > 29_000_000);
    },
  );

  await t.test(
    'a recipe that would have all names held against thousands of patterns is not begun',
    async () => {
      const files = Object.fromEntries(
        Array.from({ length: 3000 }, (_, n) => [`f/${n % 50}/${n}`, '']),
      );
      const reads = `[${Array.from({ length: 250 }, (_, n) => `"*${n % 10}"`).join(',')}]`;
      const steps = Array.from(
        { length: 30 },
        (_, n) => `  s${n}: {run: "true", reads: ${reads}, writes: [w${n}]}\n`,
      ).join('');
      const { reason, failure } = await build({
        ...files,
        'vaquero.yaml': `steps:\n${steps}serve: {site: w1}\n`,
      });
      assert.equal(reason?.reason, 'commit-unreadable');
      assert.match(
        failure?.why ?? '',
        /more paths and patterns than can be looked for among the \d+ names/,
      );
    },
  );

  await t.test(
    'calls that lead past the walls are refused, and what builds need works',
    async () => {
      const calls = [
        ['io_uring_setup', 'syscall(425, 1, 0)', 38],
        ['userfaultfd', 'syscall(323, 0)', 1],
        ['keyctl', 'syscall(250, 0, -3, 1)', 1],
        ['bpf', 'syscall(321, 0, 0, 0)', 1],
        ['unshare', 'syscall(272, 0x10000000)', 1],
        ['clone', 'syscall(56, 0x10000011, 0, 0, 0, 0)', 1],
        ['clone3', 'syscall(435, 0, 0)', 38],
        ['AF_VSOCK', 'syscall(41, 40, 1, 0)', 1],
        ['AF_PACKET', 'syscall(41, 17, 3, 0)', 1],
        ['AF_ALG', 'syscall(41, 38, 5, 0)', 1],
        ['AF_INET', 'syscall(41, 2, 1, 0)', 0],
        ['TIOCSTI', 'syscall(16, 0, 0x5412, 0)', 1],
        ['mount', 'syscall(165, 0, 0, 0, 0, 0)', 1],
        ['open_by_handle_at', 'syscall(304, 0, 0, 0)', 1],
      ] as const;
      const perl = calls
        .map(([name, call]) => `$!=0; my $r=${call}; print "${name} ", ($r<0 ? $!+0 : 0), "\\n";`)
        .join(' ');
      const { state, log } = await build({
        'vaquero.yaml': recipeOf(
          `echo begins\nperl -e '${perl}'\nperl -e 'syscall(0x40000000 + 39)'; echo "x32 ended with $?"\nnode -e "require('http').createServer().listen(0, () => { console.log('node listens'); process.exit() })"\npython3 -c 'import threading; threading.Thread(target=lambda: print("python runs")).start()'\ngit init -q repository && echo git works\n${writesPage('x')}`,
        ),
      });
      assert.equal(state, 'passed', log);
      for (const [name, , error] of calls) assert.match(log, new RegExp(`^${name} ${error}$`, 'm'));
      assert.match(log, /^x32 ended with 159$/m);
      assert.match(log, /^node listens$[\s\S]*^python runs$[\s\S]*^git works$/m);
    },
  );
});

test('a leftover of any depth keeps no runner from starting, and goes', async (t) => {
  const state = temporaryFolder(t);
  const folder = join(state, 'slots', '0', 'attempt', 'tree');
  mkdirSync(folder, { recursive: true });
  const deepen = 'for (1 .. 3000) { mkdir "d"; chdir "d" or die } symlink "/", "x"';
  await execa('perl', ['-e', deepen], { cwd: folder });
  const environment = runnerAlone(state);
  const runner = await startRunner({
    config: readRunnerConfig(environment),
    log: makeLog('test', 'fatal'),
  });
  await runner.stop();
  assert.deepEqual(readdirSync(join(state, 'slots', '0')), []);
  const aside = join(state, 'slots', 'used');
  assert.ok(readdirSync(aside).some((name) => existsSync(join(aside, name, 'attempt'))));
  // The test’s own way of removing its folder stops at such a depth too.
  await execa('rm', ['-rf', '--', join(state, 'slots')]);
});
