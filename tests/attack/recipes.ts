import { readRecipe } from '@vaquero/contracts';
import { type Attack, judge } from './attempt.ts';

const step = (text: string): string =>
  `steps:\n  pages: {run: "true", ${text}}\nserve: {site: out}\n`;

/** Recipes that are to be refused as they are read, by what they try. */
const hostile: Readonly<Record<string, string>> = {
  'a way out in a cache': step('caches: ["~/c\\0--share-net"]'),
  'the host’s tree in a cache': step('caches: ["~/c\\0--bind\\0/\\0/mnt"]'),
  'a cache outside its home': step('caches: ["~/../../etc"]'),
  'a cache by its whole path': step('caches: [/etc]'),
  'rights in a value': step('sets: {A: "x\\0--cap-add\\0ALL"}'),
  'an escape in a value': step('sets: {A: "\\e]0;x\\a"}'),
  'a NUL in a key': 'steps:\n  "pa\\0ges": {run: "true"}\nserve: {site: out}\n',
  'a program before all others': step('sets: {PATH: /tmp}'),
  'a library before all others': step('sets: {LD_PRELOAD: /tmp/x.so}'),
  'options of Node': step('sets: {NODE_OPTIONS: "--require /tmp/x"}'),
  'a name of the service': step('given: [VAQUERO_TOKEN]'),
  'a folder above its own': step('in: ../other'),
  'a folder by its whole path': step('in: /etc'),
  'reading above its own folder': step('reads: [../../etc]'),
  'reading what is not named under beyond': step('reads: [/etc/passwd]'),
  'writing above its own folder': step('writes: [../../etc]'),
  'writing into the home': step('writes: ["~/x"]'),
  'a report above its own folder': step('results: {tests: "../../*.xml"}'),
  'a report by its whole path': step('results: {findings: /etc/passwd}'),
  'a site above its own folder': 'steps:\n  pages: {run: "true"}\nserve: {site: ../../etc}\n',
  'a site by its whole path': 'steps:\n  pages: {run: "true"}\nserve: {site: /etc}\n',
  'an entry with an escape':
    'steps:\n  pages: {run: "true"}\nserve: {site: out, entry: "a\\e[2J"}\n',
  'a step named like an option': 'steps:\n  --help: {run: "true"}\nserve: {site: out}\n',
  'a step named like the prototype': 'steps:\n  __proto__: {run: "true"}\nserve: {site: out}\n',
  'a circle of steps':
    'steps:\n  a: {run: "true", after: b}\n  b: {run: "true", after: a}\nserve: {site: out}\n',
  'anchors that multiply': `a: &a [x, x]\nb: &b [*a, *a]\nsteps:\n  pages: {run: *b}\nserve: {site: out}\n`,
  'a merge of keys':
    'steps:\n  pages: {<<: {run: "true"}, run: "true", sets: {<<: 1}}\nserve: {site: out}\n',
  'a tag that makes objects': 'steps:\n  pages: {run: !!js/function "x"}\nserve: !!binary x\n',
  'a port that is none':
    'steps:\n  pages: {run: "true", beside: d}\nbeside:\n  d: {run: "true", ready: {port: 99999999}}\nserve: {site: out}\n',
  'a time without end': step('within: 99999 h'),
  'tries without end': step('tries: 1000000'),
  'a version that is a path':
    'tools: {node: "../../x"}\nsteps:\n  pages: {run: "true"}\nserve: {site: out}\n',
  'a schedule that is a command':
    'again: {cron: "* * * * $(id)"}\nsteps:\n  pages: {run: "true"}\nserve: {site: out}\n',
  'a hundred thousand steps': `steps:\n${Array.from({ length: 100_000 }, (_, n) => `  s${n}: {run: x}`).join('\n')}\nserve: {site: out}\n`,
  'lists in lists without end': `steps: ${'['.repeat(5000)}${']'.repeat(5000)}\n`,
  'maps in maps without end': `steps: ${'{a: '.repeat(5000)}x${'}'.repeat(5000)}\n`,
};

/** Recipes that reach for what is not theirs. */
export const byRecipe: Attack = async () =>
  Object.entries(hostile).map(([what, text]) => {
    const began = performance.now();
    const read = readRecipe(text, 'vaquero.yaml', ['index.html']);
    const said = read.ok ? `was read: ${JSON.stringify(read.value)}` : read.refusal.code;
    return judge(
      `a recipe with ${what}`,
      /^recipe-invalid in time$/,
      `${said} ${performance.now() - began < 3000 ? 'in time' : 'late'}`,
    );
  });
