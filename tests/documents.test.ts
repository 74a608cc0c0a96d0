import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import test from 'node:test';
import { makeProgram } from '@vaquero/cli';
import { commandsPage } from './support/commands-page.ts';

const root = join(import.meta.dirname, '..');
const tracked = execFileSync('git', ['ls-files'], { cwd: root, encoding: 'utf8' }).split('\n');
const read = (path: string): string => readFileSync(join(root, path), 'utf8');
const pages = ['README.md', ...tracked.filter((path) => /^docs\/[^/]+\.md$/.test(path))];
const sources = tracked.filter(
  (path) => /^packages\/[^/]+\/src\/.*\.ts$/.test(path) && !path.endsWith('.test.ts'),
);

/** Commands of a text: what stands behind the program's name where code is written. */
function commandsIn(text: string): readonly string[] {
  const code = [...text.matchAll(/```[^`]*```|`[^`\n]+`/g)].map((match) => match[0]).join('\n');
  return [...code.matchAll(/(?:^|[\s`(])(?:\.\/)?vaquero ([a-z][a-z-]+)/gm)].map(
    (match) => match[1] ?? '',
  );
}

const program = makeProgram(() => Promise.resolve());
const known = new Set(program.commands.map((command) => command.name()));

test('every command that a page names is there', () => {
  for (const page of pages)
    for (const command of commandsIn(read(page)))
      assert.ok(known.has(command), `${page} names vaquero ${command}`);
});

test('the page of all commands is that of their declarations', () => {
  const path = join(root, 'docs/commands.md');
  // `VAQUERO_WRITE_PAGES=1 npm test tests/documents.test.ts` makes it anew.
  if (process.env.VAQUERO_WRITE_PAGES === '1') writeFileSync(path, commandsPage());
  assert.equal(readFileSync(path, 'utf8'), commandsPage());
});

test('every command that a refusal or a hint names is there', () => {
  for (const path of sources) {
    for (const match of read(path).matchAll(/[^a-z/@.-]vaquero ([a-z]+(?:-[a-z]+)*)/g)) {
      const command = match[1] ?? '';
      // What is said in prose is not in a string: comments name no commands.
      const line = read(path).slice(0, match.index).split('\n').at(-1) ?? '';
      if (/^\s*(?:\*|\/\/|\/\*)/.test(line)) continue;
      assert.ok(known.has(command), `${path} names vaquero ${command}`);
    }
  }
});

test('every variable that a page names is read, and every one that is read is explained', () => {
  const named = new Set(pages.flatMap((page) => read(page).match(/VAQUERO_[A-Z_]*[A-Z]/g) ?? []));
  const namesIn = (paths: readonly string[]): ReadonlySet<string> =>
    new Set(paths.flatMap((path) => read(path).match(/VAQUERO_[A-Z_]*[A-Z]/g) ?? []));
  const anywhere = namesIn(sources);
  assert.deepEqual(
    [...named].filter((name) => !anywhere.has(name)),
    [],
    'variables that nothing reads',
  );
  const readThere = namesIn(sources.filter((path) => /config\.ts$/.test(path)));
  // Set by the service for its own parts, or by the demo; nobody has to know them.
  const own = new Set(['VAQUERO_CONSOLE', 'VAQUERO_MIGRATIONS', 'VAQUERO_MACHINE_CERTIFICATES']);
  assert.deepEqual(
    [...readThere].filter((name) => !named.has(name) && !own.has(name)),
    [],
    'variables that no page explains',
  );
});

test('links between pages, and to pictures, lead somewhere', () => {
  for (const page of [...pages, 'CHANGELOG.md']) {
    for (const match of read(page).matchAll(/\]\(([^)#\s]+)(?:#[^)]*)?\)/g)) {
      const to = match[1] ?? '';
      if (/^https?:/.test(to)) continue;
      assert.ok(existsSync(join(root, dirname(page), to)), `${page} links to ${to}`);
    }
  }
});

test('decisions are numbered one after the other', () => {
  const decisions = tracked.filter((path) => path.startsWith('docs/decisions/')).sort();
  for (const [place, path] of decisions.entries()) {
    const number = String(place + 1).padStart(4, '0');
    assert.ok(path.startsWith(`docs/decisions/${number}-`), path);
    assert.match(read(path), new RegExp(`^# ${number} `));
  }
});
