import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { setTimeout as pause } from 'node:timers/promises';
import { pino } from 'pino';
import type { Limits } from '../config.ts';
import { openAnterooms, pipeOf } from './anteroom.ts';
import { keepReady } from './ready-pool.ts';
import type { Slot } from './slot.ts';

const log = pino({ level: 'silent' });
const limits: Limits = {
  stepMs: 60_000,
  processes: 64,
  memoryBytes: 1 << 30,
  diskBytes: 1 << 30,
  logBytes: 1 << 20,
};
const needsRoot = process.getuid?.() === 0 ? false : 'only root makes networks for others';

function rooms(t: TestContext) {
  const directory = mkdtempSync(join(tmpdir(), 'vaquero-anterooms-'));
  t.after(() => rmSync(directory, { recursive: true, force: true }));
  const uid = process.getuid?.() === 0 ? 69_990 : null;
  const slot: Slot = { number: 0, name: `slot-test-${process.pid}`, uid, directory };
  const anterooms = openAnterooms([slot], limits, log);
  t.after(anterooms.stop);
  return { slot, anterooms };
}

const isRunning = (pid: number | undefined): boolean => existsSync(`/proc/${pid}`);

test('a process that waited becomes the command it is told, word for word, with nothing of its own left', async (t) => {
  const { slot, anterooms } = rooms(t);
  const entered = await anterooms.enter(slot, 'none');
  const { child } = entered;
  let said = '';
  child.stdout?.on('data', (bytes: Buffer) => {
    said += bytes.toString();
  });
  const words = ["it's", 'two\nlines', '', '$HOME `id` \\', 'ü'];
  entered.become(['printf', '%s|', ...words]);
  const [code] = (await once(child, 'close')) as [number | null];
  assert.deepEqual([code, said], [0, words.map((word) => `${word}|`).join('')]);
  // The descriptor it was told by is closed for the command.
  const next = await anterooms.enter(slot, 'none');
  let open = '';
  next.child.stdout?.on('data', (bytes: Buffer) => {
    open += bytes.toString();
  });
  next.become(['/bin/sh', '-c', 'test -e /proc/self/fd/12 && echo open; echo ended']);
  await once(next.child, 'close');
  assert.equal(open, 'ended\n');
  assert.notEqual(next.child.pid, child.pid);
});

test('what waits for nothing ends: told nothing, it goes with the pipe it listens at', async (t) => {
  const { slot, anterooms } = rooms(t);
  const { child, close } = await anterooms.enter(slot, 'none');
  assert.ok(isRunning(child.pid));
  const ended = once(child, 'exit');
  // As if the runner was killed: its end of the pipe closes.
  pipeOf(child, 12)?.destroy();
  await ended;
  await close();
  const other = await anterooms.enter(slot, 'none');
  await other.close();
  assert.equal(isRunning(other.child.pid), false);
});

test('each way out is used once, closed towards this machine, and made anew when something of it died', {
  skip: needsRoot,
}, async (t) => {
  const { slot, anterooms } = rooms(t);
  const one = await anterooms.enter(slot, 'out');
  const two = await anterooms.enter(slot, 'out');
  const [first, second] = [one.way?.namespace ?? '', two.way?.namespace ?? ''];
  assert.ok(first !== '' && second !== '' && first !== second);
  const routes = execFileSync('nsenter', [`--net=${first}`, 'ip', 'route'], { encoding: 'utf8' });
  for (const network of ['10.0.0.0/8', '169.254.0.0/16', '192.168.0.0/16'])
    assert.match(routes, new RegExp(`^unreachable ${network}`, 'm'));
  assert.match(routes, /^default via 10\.0\.2\.2 dev tap0/m);
  assert.equal(one.way?.isGood(), true);
  execFileSync('pkill', ['-KILL', '-f', `slirp4netns.*${first} tap0`]);
  while (one.way?.isGood() === true) await pause(5);
  await Promise.all([one.close(), two.close()]);
});

test('a pool hands out each thing once, throws the spoiled away, and makes what it lacks', async (t) => {
  let made = 0;
  const closed: number[] = [];
  const spoiled = new Set<number>();
  let fails = false;
  const problems: unknown[] = [];
  const pool = keepReady(
    2,
    async () => {
      if (fails) throw new Error('none can be made');
      made += 1;
      const number = made;
      return {
        number,
        isGood: () => !spoiled.has(number),
        close: () => void closed.push(number),
      };
    },
    (error) => void problems.push(error),
  );
  t.after(pool.stop);
  await new Promise((resolve) => setImmediate(resolve));
  assert.equal(made, 2, 'both are ready before anybody asks');
  assert.deepEqual([(await pool.take()).number, (await pool.take()).number], [1, 2]);
  // None is left yet: one is made for whoever asks.
  assert.equal((await pool.take()).number, 3);
  // Two more are made once the takers have begun; one of them spoils while it waits.
  while (made < 5) await pause(5);
  spoiled.add(4);
  assert.equal((await pool.take()).number, 5);
  assert.deepEqual(closed, [4]);
  fails = true;
  while (problems.length === 0) await pause(5);
  await assert.rejects(pool.take(), /none can be made/);
  fails = false;
  assert.equal((await pool.take()).number, 6);
  await pool.stop();
});

const sharesOut = existsSync('/sys/fs/cgroup/cpu/cpu.shares');

test('what runs in a build stands behind everything else of the machine, whatever session it starts', {
  skip: needsRoot || (sharesOut ? false : 'this machine has no such hierarchy'),
}, async (t) => {
  const { slot, anterooms } = rooms(t);
  const { child, become } = await anterooms.enter(slot, 'none');
  let said = '';
  child.stdout?.on('data', (bytes: Buffer) => {
    said += bytes.toString();
  });
  become(['setsid', '--wait', 'cat', '/proc/self/cgroup']);
  await once(child, 'close');
  assert.match(said, /cpu:\/vaquero$/m);
  assert.ok(Number(readFileSync('/sys/fs/cgroup/cpu/vaquero/cpu.shares', 'utf8')) < 1024);
});
