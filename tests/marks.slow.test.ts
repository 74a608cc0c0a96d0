import assert from 'node:assert/strict';
import test from 'node:test';
import { serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const project = 'timetable';
const page = '<!doctype html><title>Quay</title><body><h1>Quay</h1></body>';
const files = {
  'page.html': page,
  'piece.html': '<p>a piece</p>',
  'own.html': `<!doctype html><meta http-equiv="Content-Security-Policy" content="default-src 'self'">`,
  'strict.html': page,
  'own-styles.html': page,
  'board.js': 'show("</body>")',
};
const recipe = `${recipeOf(`mkdir out && cp page.html out/index.html && cp *.html board.js out/ && head -c 1500000 /dev/zero | tr '\\0' 'x' > out/filling && { echo '<!doctype html>'; cat out/filling; } > out/large.html && rm out/filling`)}`;

test('pages are marked where the map says so, under an entity tag of their own, and nothing else is touched', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const staging = `staging.${project}.localhost`;
  const text = `${recipe}  headers: {/strict: {Content-Security-Policy: "default-src 'self'; style-src 'none'"}, /own-styles: {Content-Security-Policy: "default-src 'self'"}}\n`;
  const pushed = await made.push('One', { ...files, 'vaquero.yaml': text });
  assert.equal(pushed.state, 'passed', JSON.stringify(pushed.failure));
  await serves(service, 'staging', 1);
  const plain = await service.page(staging);
  assert.equal(plain.text, page);

  const set = (name: string, rule: string) =>
    changeMap(service, project, (map) =>
      map.replace(`${name}: {${rule}`, `${name}: {marks: yes, ${rule}`),
    );
  const refusal = await refusalOf(set('production', 'accepts'));
  assert.match(refusal.detail, /is for what stands below the top/);
  await set('staging', 'follows');
  const marked = await service.page(staging);
  assert.match(
    marked.text,
    /<h1>Quay<\/h1><link rel="stylesheet" href="([^"]+)"><div data-vaquero-mark role="note">Vaquero: staging<\/div><\/body>$/,
  );
  assert.equal(marked.headers['content-length'], String(marked.body.length));
  assert.notEqual(marked.headers.etag, plain.headers.etag);
  assert.match(String(marked.headers.etag), /-marked-staging"$/);
  assert.equal(marked.headers['vaquero-environment'], 'staging');

  const [, style = ''] = /href="([^"]+)"/.exec(marked.text) ?? [];
  const css = await service.page(staging, style);
  assert.deepEqual([css.status, css.headers['content-type']], [200, 'text/css; charset=utf-8']);
  assert.match(css.text, /pointer-events: none/);
  // A policy that lets the page have styles of its own host lets it have the mark.
  assert.match((await service.page(staging, '/own-styles')).text, /data-vaquero-mark/);

  // What is known already is not sent again; a head is that of the marked page; no piece is cut of it.
  const again = await service.page(staging, '/', { 'if-none-match': String(marked.headers.etag) });
  assert.deepEqual([again.status, again.body.length], [304, 0]);
  const before = await service.page(staging, '/', { 'if-none-match': String(plain.headers.etag) });
  assert.equal(before.status, 200);
  const head = await service.page(staging, '/', {}, 'HEAD');
  assert.deepEqual(
    [head.headers['content-length'], head.body.length],
    [marked.headers['content-length'], 0],
  );
  const part = await service.page(staging, '/', { range: 'bytes=0-3' });
  assert.deepEqual([part.status, part.text], [200, marked.text]);

  // Pieces of pages, scripts, what a policy of the site's own is over, and what is large: as they are.
  for (const [path, own] of [
    ['/piece', files['piece.html']],
    ['/own', files['own.html']],
    ['/strict.html', page],
    ['/board.js', files['board.js']],
  ] as const) {
    const answer = await service.page(staging, path.replace('.html', ''));
    assert.equal(answer.text, own, path);
  }
  assert.ok(!(await service.page(staging, '/large')).text.includes('data-vaquero-mark'));

  // The top never is, and neither is the artifact itself.
  await service.promote(project);
  assert.equal((await service.page(`${project}.localhost`)).text, page);
});
