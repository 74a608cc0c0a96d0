import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { networkInterfaces } from 'node:os';
import { setTimeout as pause } from 'node:timers/promises';
import { execa } from 'execa';

/**
 * Networks that a build never reaches: private, shared, link-local and multicast ones. The outside
 * network of slirp4netns would let them through; its own 10.0.2.0/24 stays, being more specific.
 * Source: RFC 1918, RFC 6598, RFC 3927, RFC 5771, RFC 1122.
 */
const closed = [
  '10.0.0.0/8',
  '172.16.0.0/12',
  '192.168.0.0/16',
  '100.64.0.0/10',
  '169.254.0.0/16',
  '0.0.0.0/8',
  '224.0.0.0/4',
  '240.0.0.0/4',
];

const environment = { PATH: '/usr/sbin:/usr/bin:/sbin:/bin' };

/** Takes 20 ms when all is well; a step must not wait for ever where it is not. */
const longestMs = 10_000;

async function within<Result>(program: string, work: Promise<Result>): Promise<Result> {
  const done = new AbortController();
  const late = pause(longestMs, undefined, { signal: done.signal }).then(() => {
    throw new Error(`${program} did not come to its end within ${longestMs / 1000} s`);
  });
  return Promise.race([work, late]).finally(() => done.abort());
}

/** A network namespace with a way out, closed towards what a build must not reach. */
export interface WayOut {
  /** Where the namespace is found, for nsenter(1). */
  readonly namespace: string;
  /** Whether it still leads out, and this machine's own addresses are those it is closed towards. */
  readonly isGood: () => boolean;
  readonly close: () => void;
}

/**
 * Makes a network namespace with a way out, for a command to be started in. It belongs to root: what runs
 * in it under another uid cannot change its routes. Takes 20 ms, so it is better made before it is needed.
 * Throws when it cannot be made; needs root.
 */
export async function makeWayOut(): Promise<WayOut> {
  // It lives until its input ends, and so not longer than the runner.
  const holder = spawn('unshare', ['--net', '--', '/bin/sh', '-c', 'echo made; exec cat'], {
    stdio: ['pipe', 'pipe', 'ignore'],
    env: environment,
  });
  holder.stdin?.on('error', () => undefined); // It was killed with something unsaid; nothing ever is.
  try {
    await within(
      'unshare',
      Promise.race([
        once(holder.stdout, 'data'),
        once(holder, 'exit').then(([code]) => {
          throw new Error(`no network namespace could be made (exit code ${code})`);
        }),
      ]),
    );
    const own = ownAddresses();
    const slirp = await leadOut(`/proc/${holder.pid}/ns/net`, own);
    return {
      namespace: `/proc/${holder.pid}/ns/net`,
      isGood: () =>
        holder.exitCode === null &&
        slirp.exitCode === null &&
        slirp.signalCode === null &&
        own.join() === ownAddresses().join(),
      close: () => {
        slirp.kill('SIGKILL');
        holder.kill('SIGKILL');
      },
    };
  } catch (error) {
    holder.kill('SIGKILL');
    throw error;
  }
}

/**
 * Gives the network namespace of a blocked process a way out before its first instruction runs.
 * Throws when slirp4netns or the routes fail; the caller must then not let the process start.
 */
export async function openWayOut(pid: number): Promise<{ readonly close: () => void }> {
  await loopbackHasAddress(pid);
  const slirp = await leadOut(`/proc/${pid}/ns/net`, ownAddresses());
  return { close: () => slirp.kill('SIGKILL') };
}

/** Connects a namespace with the outside, then closes it towards the host's loopback, its own addresses and private networks. */
async function leadOut(namespace: string, own: readonly string[]): Promise<ChildProcess> {
  const slirp = spawn(
    'slirp4netns',
    [
      '--configure',
      '--mtu=65520',
      '--disable-host-loopback',
      '--netns-type=path',
      '--ready-fd=3',
      // The other end is ours: a runner that is killed takes it along.
      '--exit-fd=4',
      namespace,
      'tap0',
    ],
    { stdio: ['ignore', 'ignore', 'pipe', 'pipe', 'pipe'], env: environment },
  );
  try {
    await within('slirp4netns', ready(slirp));
    const routes = [...new Set([...closed, ...own])]
      .map((network) => `route add unreachable ${network}\n`)
      .join('');
    await execa('nsenter', [`--net=${namespace}`, '/sbin/ip', '-batch', '-'], {
      input: routes,
      timeout: longestMs,
      env: environment,
      extendEnv: false,
    });
    return slirp;
  } catch (error) {
    slirp.kill('SIGKILL');
    throw error;
  }
}

function ownAddresses(): readonly string[] {
  return Object.values(networkInterfaces())
    .flat()
    .filter((each) => each !== undefined && each.family === 'IPv4' && !each.internal)
    .map((each) => `${each?.address}/32`);
}

/**
 * Waits until bubblewrap has given the loopback its address. slirp4netns brings the loopback up, and the
 * kernel then adds that address by itself: where it came first, bubblewrap would find it there and give up.
 */
async function loopbackHasAddress(pid: number): Promise<void> {
  for (let tried = 0; tried < 1000; tried += 1) {
    if ((await readFile(`/proc/${pid}/net/fib_trie`, 'utf8')).includes('127.0.0.1')) return;
    await pause(2);
  }
  throw new Error('bubblewrap did not bring up the loopback within 2 s');
}

function ready(slirp: ChildProcess): Promise<void> {
  return new Promise((resolve, reject) => {
    let said = '';
    slirp.stderr?.on('data', (chunk: Buffer) => {
      said = (said + chunk.toString()).slice(-2000);
    });
    slirp.once('error', reject);
    slirp.once('exit', (code) =>
      reject(new Error(`slirp4netns ended with ${code}: ${said.trim()}`)),
    );
    slirp.stdio[3]?.once('data', () => resolve());
    slirp.stdio[4]?.on('error', () => undefined); // Its end closes with the process; nothing is ever sent.
  });
}
