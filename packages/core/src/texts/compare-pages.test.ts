import assert from 'node:assert/strict';
import test from 'node:test';
import { comparePages, type PageLine } from './compare-pages.ts';

const said = (lines: readonly PageLine[]): readonly string[] =>
  lines.map((line) =>
    line.is === 'reworded'
      ? line.parts
          .map(({ is, text }) =>
            is === 'same' ? text : is === 'added' ? `[+${text}]` : `[-${text}]`,
          )
          .join('')
      : `${line.is} ${line.text}`.trim(),
  );

test('what a page says otherwise is told by words, with the lines beside it', () => {
  const { pages, everywhere, sameText } = comparePages([
    {
      path: 'index.html',
      before: 'Timetable\nNext from Lune Quay 14:40 Far Holm\nFares\nEnd',
      after: 'Timetable\nNext from Lune Quay 14:45 Far Holm\nFares\nEnd',
    },
    { path: 'fares.html', before: 'Fares', after: 'Fares' },
    { path: 'new.html', before: '', after: 'Departures\nAs text' },
  ]);
  assert.deepEqual(
    pages.map(({ path, lines }) => [path, said(lines)]),
    [
      [
        'index.html',
        ['same Timetable', 'Next from Lune Quay [-14:40][+14:45] Far Holm', 'same Fares'],
      ],
      ['new.html', ['added Departures', 'added As text']],
    ],
  );
  assert.deepEqual([everywhere.pages, everywhere.lines, sameText], [0, [], 1]);
  const [apart] = comparePages([
    { path: 'a.html', before: 'a\nb\nc\nd\ne\nf\ng', after: 'x\nb\nc\nd\ne\nf\ny' },
  ]).pages;
  assert.deepEqual(said(apart?.lines ?? []), [
    ...['removed a', 'added x', 'same b', 'gap', 'same f', 'removed g', 'added y'],
  ]);
  const [grown] = comparePages([
    {
      path: 'a.html',
      before: 'Next from Lune Quay',
      after: 'Next from Lune Quay today\nAnd a notice',
    },
  ]).pages;
  assert.deepEqual(said(grown?.lines ?? []), [
    'Next from Lune Quay[+ today]',
    'added And a notice',
  ]);
});

test('a line that differs in very many words is not told word by word', () => {
  const line = (word: string) =>
    Array.from({ length: 60 }, (_, n) => `${word}${n} by the way`).join(' ');
  const { pages } = comparePages([{ path: 'a.html', before: line('lune'), after: line('far') }]);
  assert.deepEqual(
    pages[0]?.lines.map(({ is }) => is),
    ['removed', 'added'],
  );
});

test('what every page says otherwise is said once, and pages with nothing else are counted', () => {
  const page = (path: string, own: string, after = own) => ({
    path,
    before: `Timetable Fares\n${own}\nfoot`,
    after: `Timetable Fares Departures\n${after}\nfoot`,
  });
  const { pages, everywhere } = comparePages([
    page('a.html', 'one'),
    page('b.html', 'two'),
    page('c.html', 'three sails in winter', 'three sails in summer'),
    page('d.html', 'four'),
  ]);
  assert.deepEqual(
    [everywhere.pages, said(everywhere.lines)],
    [4, ['Timetable Fares[+ Departures]']],
  );
  assert.deepEqual(
    pages.map(({ path, lines }) => [path, said(lines)]),
    [['c.html', ['three sails in [-winter][+summer]', 'same foot']]],
  );
  // Two pages are too few to speak of all of them.
  assert.equal(comparePages([page('a.html', 'one'), page('b.html', 'two')]).pages.length, 2);
});
