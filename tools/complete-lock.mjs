// A registry mirror may lack the binaries of platforms that are not ours; npm then leaves them out of the
// lock file and `npm ci` refuses the lock file for lacking them. Run after `npm install`: it adds an entry for
// each, marked with the platform that its name says, so that `npm ci` accepts the file and skips the package.
import { readFileSync, writeFileSync } from 'node:fs';

const lock = JSON.parse(readFileSync('package-lock.json', 'utf8'));
const platforms = [
  'android',
  'darwin',
  'freebsd',
  'linux',
  'openharmony',
  'win32',
  'aix',
  'netbsd',
  'openbsd',
  'sunos',
];
const processors = [
  'arm64',
  'arm',
  'x64',
  'ia32',
  'ppc64',
  'riscv64',
  's390x',
  'loong64',
  'mips64el',
];
/** Words by which packages name a platform otherwise. */
const otherNames = { windows: 'win32', macos: 'darwin', fsevents: 'darwin', linuxmusl: 'linux' };
let added = 0;
for (const [place, entry] of Object.entries(lock.packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const candidates = [`${place}/node_modules/${name}`, `node_modules/${name}`];
    if (candidates.some((candidate) => candidate in lock.packages)) continue;
    const parts = name.split(/[/-]/);
    const os =
      platforms.find((one) => parts.includes(one)) ??
      Object.entries(otherNames).find(([word]) => parts.includes(word))?.[1];
    const cpu =
      processors.find((one) => parts.includes(one)) ??
      (name.includes('wasm') ? 'wasm32' : undefined);
    if (cpu === undefined && os === undefined) throw new Error(`no platform in the name ${name}`);
    lock.packages[`node_modules/${name}`] = {
      // The lowest that a range allows: nobody installs it.
      version: version.replace(/^[^\d]*/, ''),
      ...(cpu === undefined ? {} : { cpu: [cpu] }),
      ...(entry.dev ? { dev: true } : {}),
      ...(name.includes('musl') ? { libc: ['musl'] } : {}),
      optional: true,
      ...(os === undefined ? {} : { os: [os] }),
    };
    added += 1;
  }
}
lock.packages = Object.fromEntries(
  Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : 1)),
);
writeFileSync('package-lock.json', `${JSON.stringify(lock, null, 2)}\n`);
process.stdout.write(`${added} entries added\n`);
