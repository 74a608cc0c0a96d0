import assert from 'node:assert/strict';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { type Everywhere, NotDone } from './command.ts';
import { groups } from './commands.ts';
import { makeProgram } from './program.ts';
import { wrapped } from './wrapped.ts';

const all = groups.flatMap(({ commands }) => commands);

test('every example is a command line that its command takes', async () => {
  for (const { name, examples } of all) {
    assert.ok(examples.length > 0, name);
    for (const example of examples) {
      const words = (example.replace(/ [<>] \S+$/, '').match(/"[^"]*"|\S+/g) ?? []).map((word) =>
        word.replace(/^"|"$/g, ''),
      );
      const performed: Everywhere[] = [];
      const program = makeProgram((options) => {
        performed.push(options);
        return Promise.resolve();
      });
      await program.parseAsync(['node', 'vaquero', ...words]);
      assert.deepEqual([words[0], performed.length], [name, 1], example);
    }
  }
});

test('the help of every command, and of all, fits sixty columns', () => {
  const program = makeProgram(() => Promise.resolve());
  for (const command of [program, ...program.commands.filter((one) => one.name() !== 'complete')]) {
    let text = '';
    command.configureOutput({
      getOutHelpWidth: () => 60,
      writeOut: (said) => {
        text += said;
      },
    });
    command.outputHelp();
    const long = text.split('\n').filter((line) => line.length > 60);
    assert.deepEqual(long, [], command.name());
    if (command === program) assert.ok(text.split('\n').length < 40 + 17, 'narrow, it is longer');
  }
});

test('no two commands have one name, and a command says what came of it by what it throws', async () => {
  assert.equal(new Set(all.map(({ name }) => name)).size, all.length);
  const program = makeProgram(() => Promise.reject(new NotDone('no')));
  await assert.rejects(program.parseAsync(['node', 'vaquero', 'live']), NotDone);
});

test('a long line is wrapped by words, beside its label, and a long word stays whole', () => {
  assert.equal(wrapped('short', 20), 'short');
  assert.equal(
    wrapped('commit     one two three four five', 24),
    'commit     one two three\n           four five',
  );
  assert.equal(
    wrapped('at  http://localhost:4600/p/timetable', 20),
    'at\n    http://localhost:4600/p/timetable',
  );
  assert.equal(wrapped('x'.repeat(200), Number.POSITIVE_INFINITY), 'x'.repeat(200));
});

test('every command is run by a test beside the files of its domain', () => {
  const source = join(process.cwd(), 'packages/cli/src');
  const beside = readdirSync(source, { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('.slow.test.ts'))
    .map((path) => readFileSync(join(source, path), 'utf8'))
    .join('\n');
  for (const { name } of all)
    assert.match(beside, new RegExp(`['"\`]${name}(?: |'|"|\`)`), `${name} is run by none`);
});
