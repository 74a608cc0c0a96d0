import assert from 'node:assert/strict';
import test from 'node:test';
import { readMap, readNewMap } from './read-map.ts';

const faultsOf = (text: string): readonly string[] => {
  const read = readMap(text, 1, 'main');
  if (read.ok) return ['taken'];
  assert.ok(read.refusal.code === 'map-invalid');
  return read.refusal.faults.map(
    ({ line, column, path, message }) => `${line}:${column} ${path} ${message}`,
  );
};
const around = (environments: string, lanes = 'a') =>
  `map: x\nlanes: [${lanes}]\nenvironments:\n${environments}\n`;

test('what is no map is told with line and column, in our words', () => {
  const cases: readonly (readonly [string, RegExp])[] = [
    ['x: &a [*a]', /^1:8 .*stands for what “&a” names elsewhere/],
    ['map: "\u0007"', /^1:6 .*control character U\+0007/],
    ['map: x\nlanes: []\nenvironments: {}', /^2:1 lanes must not be empty/],
    [around('  __proto__: {follows: {branch: main}}'), /^4:3 .*is no key/],
    [around('  a: {folows: {branch: main}}'), /^4:7 .*did you mean “follows”/],
    [
      around('  a: {follows: {branch: main}, keeps: {count: 3}}'),
      /^4:32 environments\.a\.keeps is not known yet/,
    ],
    [around('  a: {}'), /^4:3 environments\.a says neither/],
    [around('  a: {follows: {branch: b}, accepts: {from: a}}'), /circle: a accepts from a/],
    [around('  a: {each: {branch: b}, accepts: {from: a}}'), /one of each is for its ref alone/],
    [around('  a: {accepts: {from: b}, enters: on-word}'), /enters is for what takes refs/],
    [
      around('  a: {follows: {branch: b}, enters: later}'),
      /a\.enters must be by-itself or on-word/,
    ],
    [around('  a: {follows: {proposed-into: main}}'), /that is what each is for/],
    [around('  a: {follows: {branch: main}, ends: {closed: 1 h}}'), /never ends by itself/],
    [around('  a: {each: {branch: b}, ends: {untouched: 1 min}}'), /must be at least 10 min/],
    [around('  a: {each: {branch: b}, at-most: 0}'), /at-most must be at least 1/],
    [around('  a: {follows: {branch: b}, may: {promote: root}}'), /may\.promote must be reader or/],
    [around('  a: {accepts: {from: b}, stops: [grew]}'), /nothing of its own, so there is nothing/],
    [around('  a: {follows: {branch: b}, stops: [typos]}'), /a\.stops\.0 must be .*broken-asset/],
    [around('  a: {follows: {branch: b}, outsiders: {build: never}}'), /that is said where pull/],
    [around('  a: {each: {branch: b}, outsiders: {build: always}}'), /build must be on-word or/],
    [around('  a: {each: {branch: b}, outsiders: {network: some}}'), /network must be out or none/],
    ...['+01:00', 'Kettle/Quay', '""'].map((zone): readonly [string, RegExp] => [
      `zone: ${zone}\n${around('  a: {follows: {branch: b}}')}`,
      /zone must be a time zone such as Europe\/Dublin/,
    ]),
    [around('  a: {follows: {branch: "a?"}}'), /no ref has a \?/],
    [
      around('  pr-3: {follows: {branch: b}}', 'pr-3'),
      /a name that pull requests and artifacts have/,
    ],
    ['a'.repeat(70_000), /is over 65536 bytes/],
  ];
  for (const [text, wanted] of cases)
    assert.match(faultsOf(text).join('\n'), wanted, text.slice(0, 80));
  assert.deepEqual(faultsOf(around('  a: {follows: {branch: main}}')), ['taken']);
  const read = readMap(`zone: Europe/Dublin\n${around('  a: {follows: {branch: b}}')}`, 1, 'main');
  assert.ok(read.ok && read.value.zone === 'Europe/Dublin');
});

test('a map is bounded in rules, names and letters, so that no map and no refs take long together', () => {
  const rules = (count: number) =>
    around(
      Array.from(
        { length: count },
        (_, place) => `  e${place}: {follows: {branch: b${place}}}`,
      ).join('\n'),
      Array.from({ length: count }, (_, place) => `e${place}`).join(', '),
    );
  assert.deepEqual(faultsOf(rules(64)), ['taken']);
  assert.match(faultsOf(rules(65)).join(), /at most 64|over 64/);
  const long = Array.from({ length: 18 }, () => `"*${'a'.repeat(240)}"`).join(', ');
  assert.match(faultsOf(around(`  a: {each: {branch: [${long}]}}`)).join(), /over 4096 letters/);
});

test('a map that would have more than 500 live at once is read where it stands, and not set anew', () => {
  const families = ['b', 'c', 'd'].map(
    (name) => `  ${name}: {each: {branch: "${name}/*"}, at-most: 200}`,
  );
  const text = around(['  a: {follows: {branch: main}}', ...families].join('\n'), 'a, b, c, d');
  assert.ok(readMap(text, 1, 'main').ok);
  const read = readNewMap(text, 1, 'main');
  assert.ok(!read.ok && read.refusal.code === 'map-invalid');
  const [fault] = read.refusal.faults;
  assert.deepEqual([fault?.line, fault?.path], [5, 'environments.b']);
  assert.match(fault?.message ?? '', /^601 environments might live at once, where 500 may/);
});
