import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { compareTexts } from './compare-texts.ts';

const said = (before: string, after: string, around?: number) =>
  compareTexts(before, after, around).map(({ is, text }) => `${is[0]} ${text}`.trim());

test('what changed is said with the lines around it, and what is left out as a gap', () => {
  const before = 'a\nb\nc\nd\ne\nf\ng\n';
  assert.deepEqual(said(before, before), []);
  assert.deepEqual(said(before, before.replace('f', 'x')), [
    'g',
    's d',
    's e',
    'r f',
    'a x',
    's g',
  ]);
  assert.deepEqual(said('', 'a\n'), ['a a']);
  assert.deepEqual(said('a', 'a\n'), []);
  assert.deepEqual(said(before, before.replace('a', 'x').replace('g', 'y'), 0), [
    'r a',
    'a x',
    'g',
    'r g',
    'a y',
  ]);
});

test('whatever the texts are, each can be read out of the comparison', () => {
  const text = fc
    .array(fc.constantFrom('a', 'b', 'c', ''), { maxLength: 12 })
    .map((lines) => lines.map((line) => `${line}\n`).join(''));
  fc.assert(
    fc.property(text, text, (before, after) => {
      const lines = compareTexts(before, after, 99);
      if (before === after) return assert.deepEqual(lines, []);
      const without = (is: string) =>
        lines.flatMap((line) => (line.is === is ? [] : [`${line.text}\n`])).join('');
      assert.deepEqual([without('added'), without('removed')], [before, after]);
    }),
  );
  // Far too different to be compared: both are said whole.
  const many = (letter: string) =>
    Array.from({ length: 3_000 }, (_, at) => `${letter}${at}`).join('\n');
  assert.equal(compareTexts(many('a'), many('b')).length, 6_000);
});
