import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';
import { causeOf, type DocumentFault, plainRecipe, plainStep } from '@vaquero/core';
import { readRecipe } from './read-recipe.ts';
import { recipeJsonSchema } from './recipe-schema.ts';
import { writeRecipe } from './write-recipe.ts';

function faultsOf(text: string): readonly DocumentFault[] {
  const read = readRecipe(text);
  assert.ok(!read.ok && read.refusal.code === 'recipe-invalid', 'was read');
  return read.refusal.faults;
}

const good = `recipe: site
format: 1
steps:
  packages: {run: npm ci, network: out}
  pages:
    after: packages
    run: [npm run data, npm run build]
serve:
  site: dist
  missing: 404.html
`;

test('a recipe is read, and written again says the same', () => {
  const read = readRecipe(good);
  assert.ok(read.ok);
  assert.deepEqual(
    read.value,
    plainRecipe({
      steps: [
        plainStep({ name: 'packages', run: ['npm ci'], network: 'out' }),
        plainStep({
          name: 'pages',
          run: ['npm run data', 'npm run build'],
          after: ['packages'],
        }),
      ],
      serve: { site: 'dist', entry: 'index.html', missing: '404.html' },
    }),
  );
  assert.deepEqual(readRecipe(writeRecipe(read.value)), read);
});

test('keys of the coming language are refused by name, others as unknown, each at its place', () => {
  const faults = faultsOf(
    'steps:\n  pages:\n    run: x\nserve:\n  server: {run: x}\n  site: dist\n  sites: b\n',
  );
  assert.deepEqual(faults, [
    { path: 'serve.server', message: 'is not known yet', line: 5, column: 3 },
    {
      path: 'serve.sites',
      message: 'is not a key of a recipe; did you mean “site”?',
      line: 7,
      column: 3,
    },
  ]);
});

test('bad input gets its line and column', () => {
  const cases: readonly (readonly [string, string, number | null])[] = [
    ['serve: {site: /etc}\n', 'must stay inside the project’s folder', 1],
    ['serve:\n  site: a/../../b\n', 'must stay inside the project’s folder', 2],
    ['steps: {Pages: {run: x}}\nserve: {site: a}\n', 'a step’s name takes a–z', 1],
    ['steps:\n  a: {run: x, after: b}\nserve: {site: a}\n', 'comes after "b", which is no step', 2],
    [
      'steps:\n  a: {run: x, after: b}\n  b: {run: x, after: a}\nserve: {site: a}\n',
      'waits for itself: a after b after a',
      2,
    ],
    ['format: 2\nserve: {site: a}\n', 'must be 1', 1],
    ['steps: {}\n', 'is missing: vaquero.yaml says what is published', 1],
    ['serve: {sit: a}\n', 'is missing', 1],
    ['serve:\n  site: 3\n', 'must be a text', 2],
    ['serve: none\n', 'must be nothing or a block of keys and values', 1],
    ['recipe: My Site\nserve: nothing\n', 'a recipe’s name takes a–z', 1],
    ['steps:\n  a: {run: x, tries: 9}\nserve: nothing\n', 'must be at most 5', 2],
    ['steps: {a: {run: x, failure: warn}}\nserve: nothing\n', 'must be ends or warns', 1],
    ['tools: {node: "20"}\nserve: nothing\n', 'must be a number', 1],
    ['x: &a [1]\nserve: *a\n', '“*a” stands for what “&a” names elsewhere', 2],
    [
      'steps:\n  a: {run: x, reads: a, writes: out/b, caches: out}\nserve: {site: out}\n',
      'keeps "out", and hands on what it writes to "out/b" there',
      2,
    ],
    ['steps: {a: {run: x, caches: "../x"}}\nserve: nothing\n', 'must be a folder of the build', 1],
    ['steps:\n  a: {after: b}\n  b: {run: x}\nserve: {site: a}\n', 'is missing: a step runs', 2],
    ['steps:\n  a: {run: x, params: {a: 1}}\nserve: {site: a}\n', 'are said of a borrowed', 2],
    [
      `steps:\n  a: {borrows: {project: p, step: s, commit: ${'a'.repeat(40)}}, tries: 2}\nserve: {site: a}\n`,
      'stands at the lender',
      2,
    ],
    [
      'steps: {a: {run: x, lends: {Depth: number}}}\nserve: {site: a}\n',
      'a parameter’s name takes a–z',
      1,
    ],
    ['runner: [Large]\nserve: {site: a}\n', 'a label takes a–z', 1],
    ['serve: [\n', 'Flow sequence in block collection must be sufficiently indented', 2],
    ['', 'must be a block of keys and values', 1],
    ['serve:\n  site: a\nsteps:\n  a:\n    run: [1]\n', 'must be a text', 5],
    ['steps:\n  a:\n    run: 3\nserve: nothing\n', 'must be a text or a list of texts', 3],
    ['steps: {a: {run: x, within: soon}}\nserve: {site: a}\n', 'must be a time such as 20 s', 1],
    [
      'steps:\n  a: {run: x, reads: [ok, ../b], writes: c}\nserve: {site: a}\n',
      'must stay inside the project’s folder; what lies outside begins with /',
      2,
    ],
    [
      'steps:\n  a: {run: x, reads: [.], writes: out}\n  b: {run: y, reads: [.], writes: out/b}\nserve: {site: out}\n',
      'writes "out/b", and so does the step a',
      3,
    ],
    [
      'steps:\n  a: {run: x, writes: out, reads: [.]}\n  b: {run: y, reads: [out/x], writes: d}\nserve: {site: out}\n',
      'reads "out/x", which the step a writes, but does not come after it; add after: a',
      3,
    ],
    [
      'steps: {a: {run: x, reads: [/lock.json], writes: out}}\nserve: {site: out}\n',
      'reads "/lock.json", which lies outside the project’s folder; name it under beyond',
      1,
    ],
    ['again: {cron: daily}\nserve: {site: a}\n', 'must be five cron fields', 1],
    ['steps: {a: {run: x, beside: desk}}\nserve: {site: a}\n', 'names the helper "desk"', 1],
    [
      'steps: {a: {run: x, sets: {PATH: /x}}}\nserve: {site: a}\n',
      'is made by the build itself',
      1,
    ],
  ];
  for (const [text, message, line] of cases) {
    const [fault] = faultsOf(text);
    assert.ok(fault, text);
    assert.ok(fault.message.startsWith(message), `${text}: ${fault.message}`);
    assert.equal(fault.line, line, text);
  }
});

test('rules of serving are told what is wrong with them, at their place', () => {
  const cases: readonly (readonly [rule: string, message: string])[] = [
    ['base: handbook', 'must be a folder of the host'],
    ['base: /a/../b/', 'is written without . and ..'],
    ['moved: {fahrplan: /a}', 'must be an address of the host'],
    ['moved: {//evil: /a}', 'must be an address of the host'],
    ['moved: {"/a/*/b": /c}', 'takes one *, as its last segment'],
    ['moved: {"/a*": /c}', 'takes one *, as its last segment'],
    ['moved: {/a: "/b/*"}', 'has no * for the one of its target'],
    ['moved: {"/a/*": "/b*"}', 'leads to a target with one *'],
    ['moved: {/a: //evil.example}', 'must lead to a path that begins with one /'],
    ['moved: {/a: "/\\\\evil.example"}', 'must lead to a path that begins with one /'],
    ['moved: {/a: "javascript:x"}', 'must lead to a path that begins with one /'],
    ['moved: {/a: "/b c"}', 'leads to a target with white space'],
    ['moved: {/a%zz: /b}', 'holds a % that stands for nothing'],
    ['moved: {/a?b: /c}', 'is a path'],
    ['instead: {"/a/*": index.html}', 'must be an address of the host'],
    ['instead: {"/a/*": "/b/*"}', 'names one page'],
    ['base: /x/, instead: {"/a/*": /x/}', 'lies outside /x/'],
    ['headers: {"/*": {Set-Cookie: a=b}}', 'cannot be set: a site of files knows nobody'],
    ['headers: {"/*": {transfer-encoding: chunked}}', 'cannot be set: it frames the answer'],
    ['headers: {"/*": {Vaquero-Deploy: "1"}}', 'is kept for what Vaquero itself says'],
    ['headers: {"/*": {"X Y": "1"}}', 'is no name of a header field'],
    ['headers: {"/*": {X-Y: "ä"}}', 'takes up to 4,000 printable ASCII'],
    ['headers: {"*": {X-Y: "a"}}', 'must begin with /'],
    ['immutable: assets/**', 'must begin with /'],
    ['site: {/print: a}', 'needs a folder for /'],
    ['site: {/: a, /a/../b: c}', 'must be a folder of the site'],
    ['site: {/: a, /print: a/print}', 'lies in “a”, which is published too'],
  ];
  for (const [rule, message] of cases) {
    const site = rule.startsWith('site') ? '' : ', site: out';
    const [fault] = faultsOf(`steps: {}\nserve: {${rule}${site}}\n`);
    assert.ok(fault !== undefined, rule);
    assert.ok(fault.message.startsWith(message), `${rule}: ${fault.message}`);
    assert.equal(fault.line, 2, rule);
  }
});

test('a small file cannot grow without end', () => {
  const bomb = `a: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b]\nserve: {site: d}\nsteps: {}\n`;
  assert.match(
    faultsOf(bomb)[0]?.message ?? '',
    /stands for what “&a” names elsewhere; write the value out/,
  );
  assert.match(faultsOf('x'.repeat(70_000))[0]?.message ?? '', /is over 65536 bytes/);
});

test('a step that reads what the commit does not hold and nobody writes is told which', () => {
  const text =
    'steps:\n  words: {run: x, reads: [words], writes: written}\n  pages:\n    after: words\n    run: y\n    reads: [written, style.css, "*.svg"]\n    writes: out\nserve: {site: out}\n';
  const read = readRecipe(text, 'vaquero.yaml', ['words/a.txt', 'vaquero.yaml']);
  assert.ok(!read.ok && read.refusal.code === 'recipe-invalid');
  assert.deepEqual(read.refusal.faults, [
    {
      path: 'steps.pages.reads.1',
      message:
        'reads "style.css", which is not in the commit and which no step before it writes; name the step that writes it under after, or take it out',
      line: 6,
      column: 22,
    },
  ]);
});

test('the whole language is read, and written again says the same', () => {
  const whole = `recipe: site
format: 1
for: {branch: [main, "try/*"], tag: "v*", proposed-into: main}
again: {cron: 0 6 * * 1, branch: main}
beyond: [/package-lock.json, /shared]
tools: {node: 20}
steps:
  packages:
    run: npm ci
    reads: [package.json, /package-lock.json]
    writes: node_modules
    caches: ~/.npm
    network: out
  unit:
    after: packages
    run: npm test
    in: desk
    sets: {NODE_ENV: test}
    given: MAP_KEY
    beside: database
    results: {tests: "reports/*.xml", findings: [a.sarif, b.sarif]}
    within: 5 min
    tries: 2
    for: {branch: main}
    failure: warns
  lent:
    run: ./links.sh
    lends: {depth: number, tone: {one-of: [plain, storm], default: plain}, word: {takes: text, default: x}}
  links:
    after: unit
    for: {branch: main}
    borrows: {project: house-steps, step: links, commit: "4be1c02e9d0f6a7b8c9d0e1f2a3b4c5d6e7f8091"}
    params: {depth: 3, loud: true}
    failure: warns
runner: [large, quiet]
beside:
  database: {run: test/database.sh, ready: {port: 3306}, within: 20 s}
serve:
  base: /handbook/
  moved: {/handbook/fahrplan: /handbook/timetable, "/winter/*": "https://ferry.example/*"}
  site: {/: dist, /print: sheets}
  instead: {"/handbook/planner/*": /handbook/planner/}
  missing: 404.html
  immutable: ["/handbook/assets/**"]
  headers: {"/handbook/fonts/*": {Access-Control-Allow-Origin: "*"}}
`;
  const read = readRecipe(whole);
  assert.ok(read.ok, JSON.stringify(read));
  assert.deepEqual(readRecipe(writeRecipe(read.value)), read);
  assert.deepEqual(read.value.for, {
    branch: ['main', 'try/*'],
    tag: ['v*'],
    proposedInto: ['main'],
  });
  assert.equal(read.value.steps[1]?.withinMs, 300_000);
  assert.deepEqual(read.value.serve, {
    site: 'dist',
    entry: 'index.html',
    missing: '404.html',
    sites: { print: 'sheets' },
    base: '/handbook/',
    moved: [
      { from: '/handbook/fahrplan', to: '/handbook/timetable' },
      { from: '/winter/*', to: 'https://ferry.example/*' },
    ],
    instead: [{ at: '/handbook/planner/*', page: '/handbook/planner/' }],
    headers: [{ at: '/handbook/fonts/*', fields: { 'Access-Control-Allow-Origin': '*' } }],
    immutable: ['/handbook/assets/**'],
  });
});

test('the JSON Schema speaks of every key that is read', () => {
  const schema = JSON.stringify(recipeJsonSchema());
  for (const key of [
    'reads',
    'writes',
    'given',
    'within',
    'beside',
    'proposed-into',
    'serve',
    'borrows',
    'lends',
    'runner',
  ])
    assert.match(schema, new RegExp(`"${key}":`));
});

test('the JSON Schema that is published is the one of this version', () => {
  const path = new URL('../../../../docs/recipe.schema.json', import.meta.url);
  assert.deepEqual(
    JSON.parse(readFileSync(path, 'utf8')),
    JSON.parse(JSON.stringify(recipeJsonSchema())),
    'write it anew: ./vaquero recipe-schema > docs/recipe.schema.json',
  );
});

test('what the advice of a failure says to write is a recipe', () => {
  const lines = [
    'error This project\'s package.json defines "packageManager": "yarn@4.9.2". However …',
    'error tides@2.0.0: The engine "node" is incompatible with this module. Expected version ">=22".',
    'Error: MAP_KEY is not set',
    'getaddrinfo EAI_AGAIN registry',
  ];
  for (const line of lines) {
    const advice = causeOf(line)?.next ?? '';
    const tools = /tools: \{[^}]*\}/.exec(advice)?.[0] ?? '';
    const said = [/given: [A-Z_]+/, /network: out/].flatMap((form) => form.exec(advice)?.[0] ?? []);
    assert.ok(tools !== '' || said.length > 0, advice);
    const step = ['run: npm ci', ...said].join(', ');
    const read = readRecipe(`${tools}\nsteps:\n  a: {${step}}\nserve: nothing\n`);
    assert.ok(read.ok, advice);
  }
});
