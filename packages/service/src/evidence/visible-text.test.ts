import assert from 'node:assert/strict';
import test from 'node:test';
import { visibleText } from './visible-text.ts';

test('the text of a page is what a reader sees of it, a line for each block', () => {
  assert.deepEqual(
    visibleText(`<!doctype html><html><head><title>Timetable &amp; fares</title><style>p{}</style>
<meta name=x content=y></head><body><script>let a = '<p>no</p>'</script><nav><a href=/>Home</a>
<a href=/f>Fares</a></nav><h1>Next  from <b>Lune
Quay</b></h1><table><tr><td>14:40<td>Far Holm</table><img src=a.png alt="A ferry"><img src=b.png>
<noscript>off</noscript><template><p>later</p></template>tail<br>end</body></html>`).split('\n'),
    [
      'Timetable & fares',
      'Home Fares',
      'Next from Lune Quay',
      '14:40',
      'Far Holm',
      '[picture: A ferry] tail',
      'end',
    ],
  );
});

test('however deep and long a page is, its text is bounded and read without an end of the stack', () => {
  const deep = `${'<div>'.repeat(20_000)}deep${'</div>'.repeat(20_000)}`;
  assert.equal(visibleText(deep), 'deep');
  assert.ok(visibleText(`<p>${'word '.repeat(200_000)}`).length <= 400_000);
  assert.equal(visibleText(''), '');
});
