import assert from 'node:assert/strict';
import test from 'node:test';
import { missedBase } from './missed-base.ts';

test('the folder of the host that a site is built for is told by what all its assets miss', () => {
  const files = new Set(['index.html', 'assets/a.js', 'assets/b.css', 'docs/x.js']);
  const cases: readonly (readonly [string[], string | null])[] = [
    [['/handbook/assets/a.js', '/handbook/assets/b.css?v=1'], '/handbook/'],
    [['/a/b/assets/a.js'], '/a/b/'],
    [['/assets/a.js', '/handbook/assets/b.css'], null],
    [['/handbook/assets/a.js', '/other/assets/b.css'], null],
    [['/handbook/assets/gone.js'], null],
    [['assets/a.js'], null],
    [['//cdn.example/assets/a.js'], null],
    [['/hand book/assets/a.js'], null],
    [[], null],
  ];
  for (const [references, base] of cases)
    assert.equal(
      missedBase((path) => files.has(path), references),
      base,
      references.join(' '),
    );
});
