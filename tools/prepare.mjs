// Brings a machine that has only Debian 12 and Node 20 to where the project runs: Debian's packages, then
// npm's. Plain JavaScript without a dependency, since it runs before anything is installed.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

export const root = join(import.meta.dirname, '..');

/** The programs we need and the Debian packages that bring them. */
const programs = [
  { program: 'mariadbd', debian: 'mariadb-server-core' },
  { program: 'mariadb-install-db', debian: 'mariadb-server-core' },
  { program: 'mariadb', debian: 'mariadb-client' },
  { program: 'bwrap', debian: 'bubblewrap' },
  { program: 'slirp4netns', debian: 'slirp4netns' },
  { program: 'ip', debian: 'iproute2' },
  { program: 'git', debian: 'git' },
  { program: 'ssh', debian: 'openssh-client' },
];
/** Where the demo's and the tests' repositories over SSH lie: a server that listens on loopback alone. */
const forHosts = [{ program: 'sshd', debian: 'openssh-server' }];
const forTests = [
  { program: 'chromium', debian: 'chromium' },
  // A site generator of Debian's, for the test that builds a real site with one.
  { program: 'hugo', debian: 'hugo' },
  // Downloads that break off and go on; what an edge's processes are and use.
  { program: 'curl', debian: 'curl' },
  { program: 'ps', debian: 'procps' },
  // Certificates of names that lie on this machine.
  { program: 'openssl', debian: 'openssl' },
];
/** What the edge is measured beside, and by. */
const forBench = [
  { program: 'nginx', debian: 'nginx-light' },
  { program: 'wrk', debian: 'wrk' },
];

function fail(text) {
  process.stderr.write(`${text}\n`);
  process.exit(1);
}

function has(program) {
  const folders = `${process.env.PATH ?? ''}:/usr/sbin:/sbin:/usr/bin:/bin`.split(':');
  return folders.some((folder) => folder !== '' && existsSync(join(folder, program)));
}

/** Runs a command, says what it does, and every ten seconds that it still does; shows its output only when it fails. */
export function run(says, command, args, options = {}) {
  return new Promise((resolve) => {
    const begun = Date.now();
    process.stderr.write(`${says} …\n`);
    let said = '';
    const child = spawn(command, args, {
      cwd: root,
      stdio: ['ignore', 'pipe', 'pipe'],
      ...options,
    });
    const beat = setInterval(
      () =>
        process.stderr.write(`  still: ${says}, ${Math.round((Date.now() - begun) / 1000)} s\n`),
      10_000,
    );
    for (const stream of [child.stdout, child.stderr])
      stream?.on('data', (bytes) => {
        said = (said + bytes).slice(-8000);
      });
    child.on('error', (error) => {
      said += error.message;
    });
    child.on('close', (code) => {
      clearInterval(beat);
      if (code !== 0) fail(`${said}\n${says}: failed (${command} ended with ${code}).`);
      process.stderr.write(`  ${says}: ${((Date.now() - begun) / 1000).toFixed(1)} s\n`);
      resolve();
    });
  });
}

async function installDebian(wanted) {
  const missing = wanted.filter((one) => !has(one.program));
  if (missing.length === 0) return;
  const packages = [...new Set(missing.map((one) => one.debian))];
  const install = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  const names = missing.map((one) => one.program).join(', ');
  if (process.getuid?.() !== 0)
    fail(
      `Missing: ${names}.\nNext: run this as root, then start again:\n  apt-get update && ${install}`,
    );
  if (!has('apt-get'))
    fail(
      `Missing: ${names}. This machine has no apt-get.\nNext: install them with its own package manager (on Debian: ${install}).`,
    );
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await run('reading Debian’s package lists', 'apt-get', ['update', '-qq'], { env });
  await withoutDaemons(packages.includes('openssh-server'), () =>
    run(`installing ${packages.join(', ')}`, 'apt-get', install.split(' ').slice(1), { env }),
  );
  const still = wanted.filter((one) => !has(one.program));
  if (still.length > 0)
    fail(`Still missing after the installation: ${still.map((one) => one.program).join(', ')}.`);
}

/**
 * What is installed for a server's program starts no server of the machine's own, neither now nor when it starts anew: only
 * what runs here does, on loopback. Source: the Debian policy manual, section 9.3.3 (policy-rc.d).
 */
async function withoutDaemons(isSsh, work) {
  const policy = '/usr/sbin/policy-rc.d';
  const isOurs = !existsSync(policy);
  if (isOurs) writeFileSync(policy, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
  try {
    await work();
    if (isSsh && has('deb-systemd-helper'))
      // It answers to the scripts of packages alone, and wants to know of which.
      for (const unit of ['ssh.service', 'ssh.socket'])
        spawnSync('deb-systemd-helper', ['disable', unit], {
          stdio: 'ignore',
          env: { ...process.env, DPKG_MAINTSCRIPT_PACKAGE: 'openssh-server' },
        });
  } finally {
    if (isOurs) rmSync(policy, { force: true });
  }
}

/** The hash of files, for telling whether a finished piece of work is still good. */
export function hashOf(paths) {
  const hash = createHash('sha256');
  for (const path of [...paths].sort())
    hash
      .update(`${path}\0`)
      .update(readFileSync(join(root, path)))
      .update('\0');
  return hash.digest('hex');
}

/** Whether a stamp says that work for these inputs is done. */
export function isDone(name, hash) {
  const path = join(root, 'node_modules', '.stamps', name);
  return existsSync(path) && readFileSync(path, 'utf8') === hash;
}

/** Notes that work for these inputs is done. */
export function noteDone(name, hash) {
  mkdirSync(join(root, 'node_modules', '.stamps'), { recursive: true });
  writeFileSync(join(root, 'node_modules', '.stamps', name), hash);
}

/** Everything that must be there before the project's own programs can run. */
export async function prepare({ tests, bench = false, hosts = tests }) {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    fail(
      `This needs Node.js 20.19 or newer and runs on ${process.versions.node}.\nNext: install Node.js 24.`,
    );
  await installDebian([
    ...programs,
    ...(hosts ? forHosts : []),
    ...(tests ? forTests : []),
    ...(bench ? forBench : []),
  ]);
  const hash = hashOf(['package-lock.json', 'package.json']);
  if (!isDone('packages', hash)) {
    await run('installing npm packages', 'npm', ['ci', '--no-audit', '--no-fund']);
    noteDone('packages', hash);
  }
}

/** The files that git tracks or would track below some folders. */
export function sources(...folders) {
  const end = spawnSync('git', ['ls-files', '-co', '--exclude-standard', '--', ...folders], {
    cwd: root,
    encoding: 'utf8',
  });
  if (end.status !== 0) fail(`git ls-files failed: ${end.stderr}`);
  return end.stdout.split('\n').filter((path) => path !== '' && existsSync(join(root, path)));
}
