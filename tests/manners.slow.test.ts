import assert from 'node:assert/strict';
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { execa } from 'execa';
import { bundle, commandLine } from './support/command-line.ts';
import { temporaryFolder, until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

/** A command in a terminal of its own, by the program that Debian brings for it: what it writes, and what is typed. */
function inTerminal(
  t: TestContext,
  environment: Record<string, string>,
  line: string,
  columns = 60,
) {
  const child: ChildProcess = spawn(
    'script',
    ['-qec', `stty cols ${columns}; exec ${process.execPath} ${bundle} ${line}`, '/dev/null'],
    { env: { PATH: process.env.PATH ?? '', TERM: 'xterm', ...environment } },
  );
  let said = '';
  child.stdout?.on('data', (bytes) => {
    said += bytes;
  });
  const ended = new Promise<number | null>((resolve) => child.once('close', resolve));
  t.after(() => child.kill('SIGKILL'));
  return {
    said: () => said,
    ended,
    types: (text: string) => child.stdin?.write(text),
    shows: (wanted: RegExp) =>
      until(`it shows ${wanted}`, () => Promise.resolve(wanted.test(said))),
  };
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: their absence is what is tested.
const steering = /[\x00-\x09\x0b-\x1f]/;
const ctrlC = '\u0003';
const ctrlD = '\u0004';

test('the manners of the command line', async (t) => {
  const service = await startTestService(t);
  const environment = {
    XDG_CONFIG_HOME: join(service.state, 'home'),
    VAQUERO_ADDRESS: service.address,
    VAQUERO_TOKEN: service.operatorSecret,
  };
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const made = await service.project('timetable');
  await made.push('A subject that is much too long for a terminal of sixty columns to have', {
    'vaquero.yaml': recipeOf(`printf '\\033[31mred\\033[0m\\n'; ${writesPage('one')}`),
  });
  await service.promote('timetable');

  await t.test('a wrong argument is told, with exit code 2', async () => {
    for (const name of ['build', 'cancel', 'log', 'follow']) {
      const { code, err } = await vaquero(name, 'timetable', 'abc');
      assert.equal(code, 2, name);
      assert.match(err, /"abc" is not a number from 1 on/, name);
    }
    const wish = await vaquero('make-token', 'laptop', '--kind', 'perhaps');
    assert.deepEqual([wish.code, /choices are all, git/.test(wish.err)], [2, true]);
    const mistyped = await vaquero('roll-bakc', 'timetable');
    assert.deepEqual([mistyped.code, /Did you mean roll-back\?/.test(mistyped.err)], [2, true]);
  });

  await t.test('what is not there, and nothing found, are 3', async () => {
    for (const args of [
      ['live', 'nowhere'],
      ['builds', 'nowhere'],
      ['history', 'nowhere'],
      ['promote', 'timetable', '--to', 'nowhere', '--yes'],
      ['roll-back', 'timetable', 'nowhere', '--yes', '--reason', 'x'],
      ['find', 'timetable', 'nothing like it'],
      ['log', 'timetable', '1', '--find', 'nothing like it'],
    ]) {
      const { code, out, err } = await vaquero(...args);
      assert.deepEqual([code, out], [3, ''], args.join(' '));
      assert.notEqual(err, '', args.join(' '));
    }
  });

  await t.test(
    'refusals are problem details for programs, and what was found is still JSON',
    async () => {
      const refused = await vaquero('build', 'timetable', '99', '--json');
      const problem = JSON.parse(refused.out);
      assert.deepEqual([refused.code, refused.err, problem.code], [3, '', 'not-found']);
      assert.ok(problem.next.length > 0 && problem.status === 404);
      const found = await vaquero('find', 'timetable', 'nothing like it', '--json');
      assert.deepEqual([found.code, JSON.parse(found.out)], [3, { builds: [] }]);
      const absent = await vaquero('live', '--json', '--address', 'http://127.0.0.1:9');
      assert.deepEqual([absent.code, JSON.parse(absent.out).code], [4, 'not-reached']);
      const asked = await vaquero('promote', 'timetable', '--json');
      assert.deepEqual([asked.code, JSON.parse(asked.out).code], [2, 'misuse']);
      for (const [args, key] of [
        [['projects'], 'projects'],
        [['tokens'], 'tokens'],
        [['builds', 'timetable'], 'builds'],
        [['runners'], 'runners'],
      ] as const)
        assert.ok(Array.isArray(JSON.parse((await vaquero(...args, '--json')).out)[key]), key);
    },
  );

  await t.test('without a terminal nothing waits for an answer', async () => {
    const value = await vaquero('set', 'timetable', 'TIDE');
    assert.deepEqual([value.code, /no answer came/.test(value.err)], [3, true]);
    const password = await vaquero('sign-in', 'ines');
    assert.equal(password.code, 3);
    const piped = await execa(process.execPath, [bundle, 'set', 'timetable', 'TIDE'], {
      env: environment,
      input: 'high\n',
    });
    assert.match(piped.stdout, /TIDE +every build +high/);
  });

  await t.test('a log in a pipe has no escapes', async () => {
    const { out } = await vaquero('log', 'timetable', '1');
    assert.match(out, /^red$/m);
    assert.doesNotMatch(out, steering);
    const followed = await vaquero('follow', 'timetable', '1');
    assert.doesNotMatch(followed.out + followed.err, steering);
  });

  await t.test(
    'a terminal has colours, unless NO_COLOR says otherwise, and lines that fit it',
    async (t) => {
      const coloured = inTerminal(t, environment, 'log timetable 1');
      assert.equal(await coloured.ended, 0);
      assert.ok(coloured.said().includes('\u001b[31mred'));
      const plain = inTerminal(t, { ...environment, NO_COLOR: '1' }, 'log timetable 1');
      await plain.ended;
      assert.ok(!plain.said().includes('\u001b'));
      for (const line of [
        'live',
        'history timetable',
        'builds timetable',
        'build timetable 1',
        'inspection timetable',
        'recipe timetable',
        '--help',
        'promote --help',
        'accept-recipe --help',
      ]) {
        const shown = inTerminal(t, { ...environment, NO_COLOR: '1' }, line);
        assert.equal(await shown.ended, 0, line);
        const long = shown
          .said()
          .split('\r\n')
          // An address is one word, and stays whole.
          .filter((one) => one.length > 60 && !/https?:\/\//.test(one));
        assert.deepEqual(long, [], line);
      }
      const whole = await vaquero('builds', 'timetable');
      assert.match(
        whole.out,
        /A subject that is much too long for a terminal of sixty columns to have/,
      );
    },
  );

  await t.test(
    'a declined question is 3, Ctrl-C at one is 130, and nothing was changed',
    async (t) => {
      const question = /\[y\/N\] /;
      for (const [answer, code] of [
        ['n\r', 3],
        [ctrlD, 3],
        [ctrlC, 130],
      ] as const) {
        const asked = inTerminal(t, environment, 'lift-hold timetable', 160);
        await asked.shows(question);
        asked.types(answer);
        assert.equal(await asked.ended, code, JSON.stringify(answer));
        assert.match(asked.said(), /Nothing was changed/);
      }
      const secret = inTerminal(t, environment, 'set timetable KEY --secret');
      await secret.shows(/Value of KEY: /);
      secret.types('low water\r');
      assert.equal(await secret.ended, 0);
      assert.doesNotMatch(secret.said(), /low water/);
    },
  );

  await t.test(
    'a project is made by answers alone; Ctrl-C or the end of them makes none',
    async (t) => {
      const [down, enter] = ['\u001b[B', '\r'];
      const asked = inTerminal(t, environment, 'make', 100);
      await asked.shows(/What is it called\?/);
      asked.types(`timetable${enter}`);
      await asked.shows(/timetable.*Free: timetable-site/s);
      asked.types(`\u0015tides${enter}`);
      await asked.shows(/staging at http:\/\/staging\.tides\.localhost/);
      await asked.shows(/Where is its repository\?/);
      asked.types(`${down}${enter}`);
      await asked.shows(/Its address/);
      asked.types(`ftp://quay${enter}`);
      await asked.shows(/An address is as https/);
      asked.types(`\u0015http://127.0.0.1:1/tides.git${enter}`);
      await asked.shows(/Who may read it\?/);
      asked.types(enter);
      // What cannot be read is told, and asked for anew.
      await asked.shows(/Reading it.*Where is its repository\?/s);
      asked.types(`${down}${down}${down}${enter}`);
      await asked.shows(/Which project/);
      asked.types(`timetable${enter}`);
      await asked.shows(/It can be read: 1 branch\./);
      await asked.shows(/Its own branch/);
      asked.types(enter);
      await asked.shows(/Its folder in the repository/);
      asked.types(`tides${enter}`);
      await asked.shows(/staging: \{follows: \{branch: main\}\}.*Is it right\?/s);
      asked.types(enter);
      await asked.shows(/What is built first\?/);
      asked.types(enter);
      await asked.shows(/Make tides, of main, folder tides\?/);
      asked.types(enter);
      assert.equal(await asked.ended, 0, asked.said());
      assert.match((await vaquero('projects')).out, /^tides /m);

      for (const [key, code] of [
        [ctrlC, 130],
        [ctrlD, 3],
      ] as const) {
        const broken = inTerminal(t, environment, 'make', 100);
        await broken.shows(/What is it called\?/);
        broken.types(`lamps${enter}`);
        await broken.shows(/Where is its repository\?/);
        broken.types(key);
        assert.equal(await broken.ended, code, broken.said());
        assert.match(broken.said(), /Nothing was changed/);
      }
      assert.doesNotMatch((await vaquero('projects')).out, /lamps/);
      const nobody = await vaquero('make');
      assert.deepEqual([nobody.code, nobody.out], [2, '']);
      assert.match(nobody.err, /nobody is there to answer/);
      assert.equal((await vaquero('make', '--url', 'https://quay.example/a')).code, 2);
    },
  );

  await t.test('Ctrl-C while a build is followed says that it goes on', async (t) => {
    await made.copy.commit('Slow', {
      'vaquero.yaml': recipeOf(`echo begun; sleep 300; ${writesPage('two')}`),
    });
    await made.copy.push(made.remote);
    await until(
      'the build is there',
      async () => (await vaquero('build', 'timetable', '2')).code === 0,
    );
    const followed = inTerminal(t, environment, 'follow timetable 2', 160);
    await followed.shows(/begun/);
    followed.types(ctrlC);
    assert.equal(await followed.ended, 130);
    assert.match(followed.said(), /Interrupted\. Build 2 goes on\. .*vaquero follow timetable 2/);
    assert.match((await vaquero('build', 'timetable', '2')).out, /^Build 2 running/);
    assert.equal((await vaquero('cancel', 'timetable', '2')).code, 0);
  });

  await t.test(
    'address and token: the command line, the environment, the working copy, the sign-in, in this order',
    async (t) => {
      const folder = temporaryFolder(t);
      await execa('git', ['init', '--quiet', folder]);
      const inside = join(folder, 'inside');
      mkdirSync(inside);
      const run = async (env: Record<string, string>, ...args: string[]) => {
        const end = await execa(process.execPath, [bundle, ...args], {
          cwd: inside,
          env: { PATH: process.env.PATH ?? '', XDG_CONFIG_HOME: join(folder, 'home'), ...env },
          extendEnv: false,
          reject: false,
          stdin: 'ignore',
        });
        return { code: end.exitCode, out: end.stdout, err: end.stderr };
      };
      const token = { VAQUERO_TOKEN: service.operatorSecret };
      const first = await run(
        { ...token, VAQUERO_ADDRESS: service.address },
        'make',
        'signage',
        '--here',
      );
      assert.match(first.err, /In this working copy commands now go to /);
      const kept = join(folder, '.git', 'vaquero.json');
      assert.deepEqual(JSON.parse(readFileSync(kept, 'utf8')), {
        address: service.address,
        project: 'signage',
      });
      const who = await run(token, 'who');
      assert.match(who.out, /^at +http:\/\/\S+, from the working copy \(/m);
      assert.match(who.out, /^token +from the environment$/m);
      const said = JSON.parse((await run(token, 'who', '--json')).out);
      assert.deepEqual(
        [said.client.addressFrom, said.client.tokenFrom],
        ['working copy', 'environment'],
      );
      const other = 'http://127.0.0.1:9';
      assert.equal((await run({ ...token, VAQUERO_ADDRESS: other }, 'who')).code, 4);
      assert.equal(
        (await run({ ...token, VAQUERO_ADDRESS: other }, 'who', '--address', service.address)).code,
        0,
      );
      // A token in the file goes only where the file says.
      writeFileSync(
        kept,
        JSON.stringify({ address: service.address, token: service.operatorSecret }),
      );
      assert.match((await run({}, 'who')).out, /^token +from the working copy/m);
      writeFileSync(kept, '{"adress": 1}');
      const faulty = await run(token, 'who');
      assert.deepEqual([faulty.code, /vaquero\.json is not in order/.test(faulty.err)], [2, true]);
    },
  );
});

test('a packed client installs and works outside the checkout, with its manual page and completion', async (t) => {
  const folder = temporaryFolder(t);
  const npm = { env: { npm_config_cache: join(folder, 'cache') }, cwd: folder };
  const source = join(import.meta.dirname, '../packages/cli');
  await execa('npm', ['pack', source, '--ignore-scripts', '--pack-destination', folder], npm);
  await execa('npm', ['init', '--yes'], npm);
  const [packed] = (await execa('find', [folder, '-name', '*.tgz'])).stdout.split('\n');
  await execa('npm', ['install', '--offline', '--no-audit', packed ?? ''], npm);
  const program = join(folder, 'node_modules/.bin/vaquero');
  const { version } = JSON.parse(
    readFileSync(join(import.meta.dirname, '../package.json'), 'utf8'),
  ) as { version: string };
  assert.equal((await execa(program, ['--version'])).stdout, `vaquero ${version}`);
  writeFileSync(join(folder, 'vaquero.yaml'), recipeOf(writesPage('one')));
  assert.match((await execa(program, ['check-recipe'], { cwd: folder })).stdout, /is in order/);
  const page = readFileSync(join(folder, 'node_modules/@vaquero/cli/dist/vaquero.1'), 'utf8');
  assert.match(page, /^\.TH "VAQUERO" "1"/m);
  assert.match(page, /roll\\-back/);
  assert.doesNotMatch(page, /&\w+;/);
  const help = (await execa(program, ['--help'])).stdout.split('\n');
  assert.ok(help.length < 40, `${help.length} lines`);

  for (const shell of ['bash', 'zsh', 'fish'])
    assert.match((await execa(program, ['completion', shell])).stdout, /vaquero/, shell);
  const complete = async (...words: string[]) =>
    (await execa(program, ['complete', '--', ...words])).stdout
      .split('\n')
      .map((one) => one.split('\t')[0]);
  assert.deepEqual((await complete('roll')).slice(0, -1), ['roll-back']);
  assert.ok((await complete('promote', '--')).includes('--reason'));
  // The script of a real shell: what it offers comes from the program.
  const script = (await execa(program, ['completion', 'bash'])).stdout;
  writeFileSync(join(folder, 'complete.bash'), script);
  const offered = await execa(
    'bash',
    [
      '-c',
      `PATH=${join(folder, 'node_modules/.bin')}:$PATH; . ./complete.bash; complete -p vaquero`,
    ],
    { cwd: folder },
  );
  assert.match(offered.stdout, /^complete .*vaquero$/);
});
