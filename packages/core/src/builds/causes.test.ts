import assert from 'node:assert/strict';
import test from 'node:test';
import { causeOf, causeRules, type StepSituation } from './cause-rules.ts';
import { tellingLine } from './telling-line.ts';

const plain: StepSituation = {
  network: 'none',
  shutInBy: null,
  dependencies: ['vite', 'react'],
  isInstalled: true,
  manager: 'npm',
  given: [],
};

/** What programs printed, the line that tells, its cause, and what is said to do. */
const failures: readonly {
  readonly log: string;
  readonly tells: RegExp;
  readonly cause: string;
  readonly next: RegExp;
  readonly in?: Partial<StepSituation>;
}[] = [
  {
    log: `vite v6.4.1 building for production...
transforming...
✗ Build failed in 54ms
error during build:
[vite]: Rollup failed to resolve import "tides" from "/build/src/main.js".
This is most likely unintended because it can break your application at runtime.`,
    tells: /^\[vite\]: Rollup failed to resolve import "tides"/,
    cause: 'import not resolved',
    next: /^Correct the import of tides, or name the file under reads\.$/,
  },
  {
    log: `✗ Build failed in 146ms
error during build:
src/main.js (1:9): "tide" is not exported by "src/tides.js", imported by "src/main.js".
file: /build/src/main.js:1:9`,
    tells: /^src\/main\.js \(1:9\)/,
    cause: 'import that is not exported',
    next: /^Correct the import of tide at the place/,
  },
  {
    log: `✗ Build failed in 83ms
error during build:
Build failed with 1 error:

\u001B[31m[UNRESOLVED_IMPORT] \u001B[0mCould not resolve './none.css' in src/main.js
   \u001B[38;5;246m╭\u001B[0m[ src/main.js:1:8 ]`,
    tells: /UNRESOLVED_IMPORT/,
    cause: 'import not resolved',
    next: /import of \.\/none\.css/,
  },
  {
    log: `✖ Build failed in 12ms
error during build:
Something of its own went wrong in fares.js`,
    tells: /^Something of its own/,
    cause: '',
    next: /^$/,
  },
  {
    log: `npm error code EUSAGE
npm error
npm error \`npm ci\` can only install packages when your package.json and package-lock.json or npm-shrinkwrap.json are in sync. Please update your lock file with \`npm install\` before continuing.
npm error
npm error Missing: is-number@7.0.0 from lock file`,
    tells: /`npm ci` can only install/,
    cause: 'lock file behind',
    next: /^Install where you work, and commit the lock file/,
  },
  {
    log: ' ERR_PNPM_OUTDATED_LOCKFILE  Cannot install with "frozen-lockfile" because pnpm-lock.yaml is not up to date with package.json',
    tells: /OUTDATED/,
    cause: 'lock file behind',
    next: /commit the lock file/,
  },
  {
    log: '➤ YN0028: │ The lockfile would have been modified by this install, which is explicitly forbidden.',
    tells: /YN0028/,
    cause: 'lock file behind',
    next: /commit the lock file/,
  },
  {
    log: ' ERR_PNPM_NO_LOCKFILE  Cannot install with "frozen-lockfile" because pnpm-lock.yaml is absent',
    tells: /NO_LOCKFILE/,
    cause: 'no lock file',
    next: /commit the lock file/,
  },
  {
    log: `error This project's package.json defines "packageManager": "yarn@4.9.2". However the current global version of Yarn is 1.22.22.`,
    tells: /packageManager/,
    cause: 'another version of the package manager',
    next: /tools: \{yarn: 4\.9\.2\}/,
  },
  {
    log: 'error tides@2.0.0: The engine "node" is incompatible with this module. Expected version ">=22". Got "20.20.2"\nerror Found incompatible module.',
    tells: /engine "node"/,
    cause: 'another Node',
    next: /\.nvmrc|tools: \{node: 22\}/,
  },
  {
    log: 'npm error code ERESOLVE\nnpm error ERESOLVE unable to resolve dependency tree',
    tells: /ERESOLVE/,
    cause: 'dependencies that do not fit',
    next: /fit each other/,
  },
  {
    log: "npm error 404 Not Found - GET tidal\nnpm error 404  'tidal@9' is not in this registry.",
    tells: /404/,
    cause: 'no such package',
    next: /name or version/,
  },
  {
    log: 'ERROR: No matching distribution found for mkdocs-tides==9',
    tells: /No matching/,
    cause: 'no such package',
    next: /name or version/,
  },
  {
    log: 'npm error network request to a registry failed, reason: getaddrinfo EAI_AGAIN registry',
    tells: /EAI_AGAIN/,
    cause: 'no network',
    next: /add that to this step/,
  },
  {
    log: 'npm error network request to a registry failed, reason: getaddrinfo EAI_AGAIN registry',
    tells: /EAI_AGAIN/,
    cause: 'a host that does not answer',
    next: /does not answer there.*ask the operator/,
    in: { network: 'out' },
  },
  {
    log: "Error: Cannot find module 'tides'\nRequire stack:\n- /build/write.js",
    tells: /Cannot find module/,
    cause: 'module not there',
    next: /^Add tides to the dependencies, or, if it is a file/,
  },
  {
    log: "Error: Cannot find module 'tides'",
    tells: /Cannot find module/,
    cause: 'module not there',
    next: /pnpm links what package\.json names/,
    in: { manager: 'pnpm' },
  },
  {
    log: "Error: Cannot find module 'react'",
    tells: /react/,
    cause: 'nothing was installed',
    next: /a step that installs \(npm ci\) come before/,
    in: { isInstalled: false },
  },
  {
    log: '> timetable@1.0.0 build\n> vite build\n\nsh: 1: vite: not found',
    tells: /vite: not found/,
    cause: 'nothing was installed',
    next: /nothing was installed before/,
    in: { isInstalled: false },
  },
  {
    log: 'sh: 1: hugo: not found',
    tells: /hugo/,
    cause: 'program not there',
    next: /^The runner has no hugo: apt-get install hugo \(/,
  },
  {
    log: 'sh: 1: tidegen: not found',
    tells: /tidegen/,
    cause: 'program not there',
    next: /^The runner has no tidegen: install it in an earlier step/,
  },
  {
    log: "ModuleNotFoundError: No module named 'tides'",
    tells: /tides/,
    cause: 'python module not there',
    next: /requirements\.txt/,
  },
  {
    log: `/build/write.js:3
throw new Error("MAP_KEY is not set");
^

Error: MAP_KEY is not set
    at Object.<anonymous> (/build/write.js:3:7)`,
    tells: /^Error: MAP_KEY/,
    cause: 'a variable that is not there',
    next: /vaquero set PROJECT MAP_KEY\) and give it to the step: given: MAP_KEY/,
  },
  {
    log: 'Error: Missing required environment variable: FARES_URL',
    tells: /FARES_URL/,
    cause: 'a variable that is not there',
    next: /look how it reads it/,
    in: { given: ['FARES_URL'] },
  },
  {
    log: "touch: cannot touch '/usr/x': Read-only file system",
    tells: /Read-only/,
    cause: 'written where it may not',
    next: /inside the project/,
  },
  {
    log: "Error: EACCES: permission denied, open '/build/node_modules/tides/index.js'",
    tells: /EACCES/,
    cause: 'a file of an earlier step',
    next: /copy the file first/,
  },
  {
    log: 'write error: No space left on device',
    tells: /No space/,
    cause: 'disk or quota full',
    next: /more room/,
  },
  ...[
    'FATAL ERROR: Reached heap limit Allocation failed - JavaScript heap out of memory',
    "terminate called after throwing an instance of 'std::bad_alloc'",
    'memory allocation of 8589934592 bytes failed',
    'MemoryError',
    'fatal error: runtime: out of memory',
  ].map((log) => ({ log, tells: /./, cause: 'memory of the runtime', next: /Work on less/ })),
  {
    log: 'bash: line 1: 10268 Killed                  node build.js',
    tells: /Killed/,
    cause: 'killed',
    next: /the memory ran out/,
  },
  {
    log: 'src/fares.ts(4,7): error TS2322: Type string is not assignable.',
    tells: /TS2322/,
    cause: 'types do not fit',
    next: /place it names/,
  },
  {
    log: 'SyntaxError: Unexpected end of JSON input',
    tells: /JSON/,
    cause: 'syntax',
    next: /place it names/,
  },
  {
    log: 'npm error Missing script: "data"',
    tells: /data/,
    cause: 'no such script',
    next: /script data to package\.json/,
  },
  {
    log: "Error: ENOENT: no such file or directory, open 'data/fares.json'",
    tells: /ENOENT/,
    cause: 'file not there',
    next: /Commit data\/fares\.json/,
  },
  {
    log: 'not ok 3 - the fare adds up',
    tells: /fare/,
    cause: 'a test that failed',
    next: /Run that test/,
  },
  {
    log: 'Template render error: (index.njk)',
    tells: /njk/,
    cause: 'a template that failed',
    next: /template/,
  },
];

for (const { log, tells, cause, next, in: more } of failures)
  test(`${cause === '' ? 'nothing known' : cause}: ${log.split('\n').at(-1)?.slice(0, 60)}`, () => {
    const lines = log.split('\n').map((text, place) => ({ number: place + 1, text }));
    const telling = tellingLine(lines);
    if (cause !== '') assert.match(telling?.text ?? '', tells);
    const found = telling === undefined ? null : causeOf(telling.text, { ...plain, ...more });
    assert.equal(found?.name ?? '', cause);
    assert.match(found?.next ?? '', next);
    if (found !== null) assert.match(found.next, /^[A-Z].*\.$/);
  });

test('every rule of causes has a log above that it explains, and no plain line meets one', () => {
  const met = new Set(
    failures.flatMap(({ log }) =>
      log.split('\n').flatMap((line) => causeRules.find(({ form }) => form.test(line))?.name ?? []),
    ),
  );
  for (const { name } of causeRules) assert.ok(met.has(name), `no log of ${name}`);
  for (const line of [
    'pages: 43 written',
    '✓ 4 modules transformed.',
    'added 214 packages in 9s',
    'vite v8.3.8 building client environment for production...',
  ])
    assert.equal(causeOf(line), null, line);
});
