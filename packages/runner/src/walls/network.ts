import { type ChildProcess, spawn } from 'node:child_process';
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

/** A way out for one network namespace. */
export interface WayOut {
  readonly close: () => void;
}

/**
 * Gives the network namespace of a blocked process a way out, closed towards the host's loopback, the
 * machine's own addresses and private networks, before its first instruction runs.
 * Throws when slirp4netns or the routes fail; the caller must then not let the process start.
 */
export async function openWayOut(pid: number): Promise<WayOut> {
  const namespace = `/proc/${pid}/ns/net`;
  await loopbackHasAddress(pid);
  const slirp = spawn(
    'slirp4netns',
    [
      '--configure',
      '--mtu=65520',
      '--disable-host-loopback',
      '--netns-type=path',
      '--ready-fd=3',
      namespace,
      'tap0',
    ],
    {
      stdio: ['ignore', 'ignore', 'pipe', 'pipe'],
      env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin' },
    },
  );
  try {
    await ready(slirp);
    const own = Object.values(networkInterfaces())
      .flat()
      .filter((each) => each !== undefined && each.family === 'IPv4' && !each.internal)
      .map((each) => `${each?.address}/32`);
    const routes = [...new Set([...closed, ...own])]
      .map((network) => `route add unreachable ${network}\n`)
      .join('');
    await execa('nsenter', [`--net=${namespace}`, '/sbin/ip', '-batch', '-'], {
      input: routes,
      env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin' },
      extendEnv: false,
    });
  } catch (error) {
    slirp.kill('SIGKILL');
    throw error;
  }
  return { close: () => slirp.kill('SIGKILL') };
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
  });
}
