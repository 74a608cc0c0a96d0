import assert from 'node:assert/strict';
import test from 'node:test';
import { programsOf, toolsFor, toolsOfRecipe } from './programs.ts';

test('the programs that commands start are told from words, texts and files of the project', () => {
  const cases: readonly (readonly [string, string[]])[] = [
    ['npm ci', ['npm']],
    ['cd docs && mkdocs build --strict', ['mkdocs']],
    ['. .venv/bin/activate && sphinx-build -b html . _build', ['sphinx-build']],
    ['A=1 B=2 exec hugo --minify', ['hugo']],
    ['if [ -f x ]; then make; else gcc x.c; fi', ['make', 'gcc']],
    ['for f in *.md; do pandoc "$f" | tidy > out; done', ['pandoc', 'tidy']],
    ['./build.sh && scripts/more', []],
    ['echo "hugo && jekyll" > out/index.html', []],
    ['node -e \'require("fs")\'', ['node']],
    ['v=$(ruby --version)', ['ruby']],
    ['mkdir -p out\ncp a out', []],
  ];
  for (const [command, programs] of cases)
    assert.deepEqual(programsOf({ run: [command] }), programs, command);
  assert.equal(programsOf({ run: Array.from({ length: 500 }, (_, n) => `p${n}`) }).length, 20);
});

test('a step hangs on its own programs and on those that scripts start unsaid', () => {
  const tools = { system: 'Debian', node: '20', hugo: '0.111', mkdocs: '1.4' };
  assert.deepEqual(toolsFor({ run: ['hugo'] }, tools), {
    system: 'Debian',
    node: '20',
    hugo: '0.111',
  });
  assert.deepEqual(toolsFor({ run: ['__proto__ x', 'constructor'] }, tools), {
    system: 'Debian',
    node: '20',
  });
});

test('the tools of a recipe are those that any of its steps uses', () => {
  const tools = {
    system: 'linux',
    node: '20.1.0',
    hugo: '0.111.3',
    mkdocs: '1.4.2',
    ruby: '3.1.2',
  };
  const recipe = { steps: [{ run: ['hugo'] }, { run: ['mkdocs build'] }] };
  assert.deepEqual(toolsOfRecipe(recipe, tools), {
    system: 'linux',
    node: '20.1.0',
    hugo: '0.111.3',
    mkdocs: '1.4.2',
  });
  assert.deepEqual(toolsOfRecipe({ steps: [] }, tools), { system: 'linux', node: '20.1.0' });
});
