import assert from 'node:assert/strict';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import { networkInterfaces } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { type BuildReply, buildRoutes } from '@vaquero/contracts';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import { makeLog } from '@vaquero/service';
import { execa } from 'execa';
import { runnerAlone } from './support/another-runner.ts';
import { temporaryFolder } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

/** Runs a hostile step and returns its build and its log. The step may leave what it found in its log. */
async function suffer(
  t: TestContext,
  shell: string,
  environment: Record<string, string> = {},
  network = 'none',
): Promise<{ build: BuildReply; log: string; service: TestService }> {
  const service = await startTestService(t, { environment });
  const made = await service.project('timetable');
  const build = await made.push('A stranger’s commit', {
    'vaquero.yaml': recipeOf(`echo begins\n${shell}`, `    network: ${network}\n`),
  });
  const log = await logOf(service, build.number);
  // The log says the commands themselves first.
  return { build, log: log.slice(log.search(/^begins$/m)), service };
}

async function logOf(service: TestService, build: number): Promise<string> {
  const response = await fetch(`${service.address}/api/projects/timetable/builds/${build}/log`, {
    headers: { authorization: `Bearer ${service.operatorSecret}` },
  });
  return response.text();
}

test('a build sees none of the host’s files, environment or processes', async (t) => {
  process.env.SECRET_OF_THE_HOST = 'harbour-master-key';
  const { build, log, service } = await suffer(
    t,
    `for path in /root /home/someone /var /etc/shadow /etc/passwd /proc/1/root/etc/shadow /sys /run /srv /mnt; do test -e $path && echo "there: $path"; done
cat /etc/passwd; env; tr '\\0' ' ' < /proc/1/cmdline; echo; ls /proc | grep -c '^[0-9]' ; id
${writesPage('x')}`,
  );
  assert.equal(build.state, 'passed', log);
  assert.deepEqual(
    [...log.matchAll(/^there: (\/\S+)$/gm)].map(([, path]) => path),
    ['/etc/passwd'],
  );
  assert.doesNotMatch(log, /harbour-master-key|SECRET_OF_THE_HOST/);
  assert.match(log, /^build:x:1000/m);
  assert.ok(!log.includes(service.state), 'a path of the host shows');
  assert.match(log, /uid=1000/);
});

test('a build cannot write outside its own folders, nor gain rights', async (t) => {
  const { build, log } = await suffer(
    t,
    `for path in / /usr /etc /dev /proc /usr/bin; do (echo x > $path/planted) 2>/dev/null && echo "wrote: $path"; done
unshare --user true 2>/dev/null && echo "made a namespace"
mount -t tmpfs none /tmp 2>/dev/null && echo "mounted"
chroot / true 2>/dev/null && echo "chrooted"
${writesPage('x')}`,
  );
  assert.equal(build.state, 'passed', log);
  assert.doesNotMatch(log, /^(?:wrote|made|mounted|chrooted)/m);
});

test('a build without network reaches nothing; with it, neither loopback nor private nor own addresses', async (t) => {
  const listener = createServer((_req, res) => res.end('inside'));
  await new Promise<void>((resolve) => listener.listen(0, '0.0.0.0', resolve));
  t.after(() => listener.close());
  const address = listener.address();
  const port = typeof address === 'object' && address !== null ? address.port : 0;
  const own = Object.values(networkInterfaces())
    .flat()
    .filter((each) => each?.family === 'IPv4')
    .map((each) => each?.address ?? '');
  const hosts = [
    ...own,
    '127.0.0.1',
    '10.0.2.2',
    '10.0.2.3',
    '10.1.2.3',
    '172.17.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
  ];
  const reach = `cat > reach.cjs <<'J'
const net = require('net');
let left = ${hosts.length};
for (const host of ${JSON.stringify(hosts)}) {
  const socket = net.connect({ host, port: ${port}, timeout: 1500 });
  const done = (how) => { console.log(host, how); socket.destroy(); if (--left === 0) process.exit(0); };
  socket.once('connect', () => done('REACHED')); socket.once('timeout', () => done('silent')); socket.once('error', (error) => done(error.code));
}
J
node reach.cjs
${writesPage('x')}`;
  for (const network of ['none', 'out']) {
    const { build, log } = await suffer(t, reach, {}, network);
    assert.equal(build.state, 'passed', log);
    assert.doesNotMatch(log, /REACHED/, `network ${network}`);
    assert.equal([...log.matchAll(/^\d+\.\d+\.\d+\.\d+ \S+$/gm)].length, hosts.length, log);
  }
});

test('steps side by side each have a network of their own, with a loopback that only they hear', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  // Both listen at one port, and each asks it: they would meet if they shared the loopback.
  const serve = (name: string) =>
    `node -e "require('http').createServer((q,r)=>r.end('${name}')).listen(5000,'127.0.0.1',async()=>{for(let i=0;i<20;i++){const t=await(await fetch('http://127.0.0.1:5000')).text();if(t!=='${name}'){console.log('MET '+t);process.exit(3)}await new Promise(r=>setTimeout(r,50))}console.log('alone');process.exit(0)}).on('error',e=>{console.log('MET '+e.code);process.exit(4)})"`;
  const build = await made.push('Two servers', {
    'vaquero.yaml': `steps:
  one: {run: ${JSON.stringify(serve('one'))}, reads: [vaquero.yaml], writes: a, network: out}
  two: {run: ${JSON.stringify(serve('two'))}, reads: [vaquero.yaml], writes: b, network: out}
  pages: {run: ${JSON.stringify(writesPage('x'))}, after: [one, two]}
serve: {site: out}
`,
  });
  const log = await logOf(service, build.number);
  assert.deepEqual([build.failure, log.match(/^alone$/gm)?.length], [null, 2], log);
  const [one, two] = ['one', 'two'].map((name) => build.steps.find((step) => step.name === name));
  assert.ok(
    (one?.startedAt ?? 0) < (two?.endedAt ?? 0) && (two?.startedAt ?? 0) < (one?.endedAt ?? 0),
  );
});

test('npm ci, a bundler and a browser work inside', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const folder = temporaryFolder(t);
  writeFileSync(
    join(folder, 'package.json'),
    JSON.stringify({
      name: 'timetable',
      version: '1.0.0',
      private: true,
      scripts: {
        build:
          "node -e \"const c=require('clsx');require('fs').writeFileSync('page.js','document.title='+JSON.stringify(c.clsx('lune','quay')))\" && esbuild page.js --minify --outfile=dist/page.js && echo '<title>x</title><script src=page.js></script>' > dist/index.html && chromium --headless --no-sandbox --disable-gpu --dump-dom file://$PWD/dist/index.html > dist/seen.html",
      },
      dependencies: { clsx: '2.1.1', esbuild: '0.28.2' },
    }),
  );
  await execa('npm', ['install', '--package-lock-only', '--no-audit', '--no-fund'], {
    cwd: folder,
  });
  const files = Object.fromEntries(
    ['package.json', 'package-lock.json'].map((name) => [
      name,
      readFileSync(join(folder, name), 'utf8'),
    ]),
  );
  const build = await made.push('A site with a dependency', files);
  assert.equal(build.state, 'passed', await logOf(service, build.number));
  assert.deepEqual(
    build.steps.map((step) => step.name),
    ['fetch', 'packages', 'pages', 'store', 'inspect', 'look'],
  );
  // What the browser made of what the bundler wrote, all of it behind the walls.
  const host = `staging.timetable.localhost:${service.edgePort}`;
  assert.match((await service.page(host, '/seen')).text, /<title>lune quay<\/title>/);
  // the folder that was open in the proposal is known now
  assert.equal(build.recipe?.recipe.serve?.site, 'dist');
});

test('processes without end stop at the limit, and the build says so', async (t) => {
  const { build } = await suffer(
    t,
    'i=0; while [ $i -lt 400 ]; do sleep 20 & i=$((i+1)); done; wait',
    { VAQUERO_STEP_PROCESSES: '64', VAQUERO_STEP_SECONDS: '12' },
  );
  assert.equal(build.state, 'failed');
  assert.equal(build.failure?.what, 'Step pages failed and could start no more processes.');
});

test('a build that fills the memory is stopped, and the build says so', async (t) => {
  const { build } = await suffer(
    t,
    'node -e "const all=[]; for(;;) all.push(Buffer.alloc(16<<20, 1))"',
    { VAQUERO_BUILD_MEMORY_MB: '384' },
  );
  assert.equal(build.state, 'failed');
  assert.ok(build.reason?.reason === 'step');
  // One process alone meets its own limit and aborts; several together are stopped over all of them.
  const together = await suffer(
    t,
    // Each holds what it was given until its input ends; no line of Node.js takes another amount for that.
    'for i in 1 2 3 4 5 6; do (head -c 130M /dev/zero; sleep 20) | tail -c 130M > /dev/null & done; wait',
    { VAQUERO_BUILD_MEMORY_MB: '384' },
  );
  assert.equal(
    together.build.failure?.what,
    'Step pages was stopped: it wanted over 384 MiB of memory.',
  );
});

test('memory cannot be filled through the folders that are memory', async (t) => {
  const { build, log } = await suffer(
    t,
    `dd if=/dev/zero of=/dev/shm/x bs=1M count=200 2>&1 | tail -1; du -m /dev/shm | tail -1; ${writesPage('x')}`,
  );
  assert.equal(build.state, 'passed', log);
  assert.match(log, /^6[0-4]\s/m);
});

test('a build that fills the disk is stopped, and the build says so', async (t) => {
  const { build } = await suffer(
    t,
    'i=0; while true; do dd if=/dev/zero of=big$i bs=1M count=8 2>/dev/null; i=$((i+1)); done',
    { VAQUERO_BUILD_DISK_MB: '48', VAQUERO_STEP_SECONDS: '60' },
  );
  assert.equal(build.failure?.what, 'Step pages was stopped: it wrote over 48 MiB.');
});

test('a build that talks without end is stopped, and its log keeps the beginning', async (t) => {
  const { build, log } = await suffer(t, 'yes "the tide comes in"', {
    VAQUERO_BUILD_LOG_MB: '0.5',
    VAQUERO_STEP_SECONDS: '60',
  });
  assert.equal(build.failure?.what, 'Step pages was stopped: its log passed 1 MiB.');
  assert.match(log, /the tide comes in/);
  assert.ok(log.length <= (1 << 19) + 1);
});

test('a build that waits for ever is stopped, and the build says so', async (t) => {
  const { build } = await suffer(t, 'sleep 600', { VAQUERO_STEP_SECONDS: '1' });
  assert.equal(build.failure?.what, 'Step pages was stopped after 1 s.');
});

test('nothing that a build started outlives it', async (t) => {
  const { build, service } = await suffer(
    t,
    `(setsid sh -c 'trap "" HUP TERM; sleep 400' >/dev/null 2>&1 &) ; (nohup sleep 401 >/dev/null 2>&1 &) ; ${writesPage('x')}`,
  );
  assert.equal(build.state, 'passed');
  const [first = 0, last = 0] = (service.environment.VAQUERO_RUNNER_UIDS ?? '')
    .split('-')
    .map(Number);
  const alive = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      if (!existsSync(`/proc/${pid}/status`)) return false;
      const status = readFileSync(`/proc/${pid}/status`, 'utf8');
      const owner = Number(/^Uid:\s+(\d+)/m.exec(status)?.[1]);
      return owner >= first && owner <= last && !/^State:\s+Z/m.test(status);
    });
  assert.deepEqual(alive, []);
});

test('a stored blob does not change through a hard link that the build kept', async (t) => {
  const { build, service } = await suffer(
    t,
    `${writesPage('honest')}; ln out/index.html kept.html; ln out/index.html /tmp/kept.html || true`,
  );
  assert.equal(build.state, 'passed');
  const host = `staging.timetable.localhost:${service.edgePort}`;
  assert.equal((await service.page(host)).text, '<h1>honest</h1>');
  // What is in the store has one name, belongs to us and cannot be written.
  const stored = await execa('find', [join(service.state, 'store'), '-type', 'f', '-links', '+1']);
  assert.equal(stored.stdout, '');
  const foreign = await execa('find', [
    join(service.state, 'store'),
    '-type',
    'f',
    '(',
    '!',
    '-user',
    'root',
    '-o',
    '-perm',
    '/222',
    ')',
  ]);
  assert.equal(foreign.stdout, '');
});

test('another build’s files are out of reach', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', {
    'vaquero.yaml': recipeOf(
      `echo secret-of-one > /tmp/left; echo secret-of-one > $HOME/left; ${writesPage('1')}`,
    ),
  });
  const second = await made.push('Two', {
    'vaquero.yaml': recipeOf(
      `echo begins; cat /tmp/left $HOME/left 2>/dev/null; find / -name left -not -path '/proc/*' 2>/dev/null; ${writesPage('2')}`,
    ),
  });
  const log = await logOf(service, second.number);
  const said = log.slice(log.search(/^begins$/m));
  assert.equal(second.state, 'passed', log);
  assert.doesNotMatch(said, /secret-of-one|\/left$/m);
});

test('where the walls cannot stand the runner refuses to start and says why, unless the danger is written out', async (t) => {
  const state = temporaryFolder(t);
  const environment = runnerAlone(state);
  const log = makeLog('test', 'fatal');
  const path = process.env.PATH;
  t.after(() => {
    process.env.PATH = path;
  });
  // Limits so small that no sandbox can be raised stand for a machine that does not allow one.
  const config = {
    ...readRunnerConfig(environment),
    limits: { ...readRunnerConfig(environment).limits, processes: -16 },
  };
  await assert.rejects(
    startRunner({ config, log }),
    /walls around builds cannot stand here: .+\nNext: install bubblewrap.*builds-can-read-and-change-this-machine/s,
  );
  const open = await startRunner({ config: { ...config, withoutWalls: true }, log });
  await open.stop();
  assert.equal(
    readRunnerConfig({ ...environment, VAQUERO_RUNNER_WITHOUT_WALLS: 'yes' }).withoutWalls,
    false,
  );
});

test('a state directory that builds could not reach is named, with the way out', async (t) => {
  const state = temporaryFolder(t);
  chmodSync(state, 0o700);
  const environment = runnerAlone(join(state, 'inside'));
  mkdirSync(join(state, 'inside'));
  const start = startRunner({
    config: readRunnerConfig(environment),
    log: makeLog('test', 'fatal'),
  });
  await assert.rejects(
    start,
    new RegExp(`the folder ${state} is closed to other users.*chmod o\\+x`),
  );
});

test('a log is read whole, from an offset, and followed without loss or doubles', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('Chatty', {
    'vaquero.yaml': recipeOf(
      `i=0; while [ $i -lt 2000 ]; do echo "line $i ä"; i=$((i+1)); done; ${writesPage('x')}`,
    ),
  });
  const whole = await logOf(service, build.number);
  assert.equal([...whole.matchAll(/^line \d+ ä$/gm)].length, 2000);
  const half = Math.floor(Buffer.byteLength(whole) / 2);
  const response = await fetch(
    `${service.address}/api/projects/timetable/builds/${build.number}/log`,
    {
      headers: {
        authorization: `Bearer ${service.operatorSecret}`,
        accept: 'text/event-stream',
        'last-event-id': String(half),
      },
    },
  );
  const events = await response.text();
  const rest = [...events.matchAll(/^data: (".*")$/gm)].map(([, data]) =>
    Buffer.from(JSON.parse(data ?? '""') as string, 'latin1'),
  );
  assert.equal(Buffer.concat(rest).toString(), Buffer.from(whole).subarray(half).toString());
  assert.match(events, /event: end/);
  const shown = await service.operator.call(buildRoutes.showBuildRoute, {
    params: { project: 'timetable', build: build.number },
  });
  assert.equal(shown.steps.find((step) => step.name === 'pages')?.logFrom, 0);
});
