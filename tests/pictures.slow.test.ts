import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { comparisonRoutes, headersOfRole, type PicturesSeen } from '@vaquero/contracts';
import { PNG } from 'pngjs';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

const page = (text: string, more = '') =>
  `<!doctype html><title>Ferry</title><link rel="stylesheet" href="/a.css"><h1>${text}</h1><p id="now"></p><script>document.getElementById("now").textContent = String(Date.now())</script>${more}\n`;

const band = '<p style="height: 40px; background: teal"></p>';

const site = (files: Readonly<Record<string, string>>) =>
  Object.fromEntries(Object.entries(files).map(([path, text]) => [`site/${path}`, text]));

async function compared(
  service: TestService,
  before: number,
  after: number,
): Promise<PicturesSeen | null> {
  const told = await service.operator.call(comparisonRoutes.compareRoute, {
    params,
    query: { before, after },
  });
  return told.pictures;
}

/** A project of which changed pages are pictured, with its first build. */
async function begun(t: Parameters<typeof startTestService>[0], asks = true) {
  assert.ok(existsSync('/usr/bin/chromium'), 'npm test installs it');
  const service = await startTestService(t);
  const made = await service.project(project);
  if (asks)
    await changeMap(service, project, (text) =>
      text.replace('staging: {', 'staging: {pictures: yes, '),
    );
  const files = site({ 'index.html': page('One'), 'fares.html': page('Fares'), 'a.css': 'h1{}' });
  await made.push('One', { 'vaquero.yaml': recipeOf('cp -r site out'), ...files });
  return { service, made };
}

test('changed pages are pictured behind the walls, before and after, with the share that differs', async (t) => {
  const { service, made } = await begun(t);
  await made.push(
    'Two',
    site({ 'index.html': page('Two', band), 'new.html': page('New'), 'notes.html': page('Notes') }),
  );
  const taken = await until(
    'they are taken',
    async () => {
      const seen = await compared(service, 1, 2);
      return seen?.state === 'taken' && seen;
    },
    { withinMs: 90_000, seen: () => compared(service, 1, 2) },
  );
  assert.deepEqual(
    taken.pages.map(({ before, after, sides, why }) => [before, after, sides, why]),
    [
      ['index.html', 'index.html', ['before', 'after', 'difference'], null],
      [null, 'new.html', ['after'], null],
      [null, 'notes.html', ['after'], null],
    ],
  );
  const [index] = taken.pages;
  // A word and a band: some of the page, and by no means all; what it says of now is the same in both.
  assert.ok(index?.share != null && index.share > 0.03 && index.share < 0.5, String(index?.share));
  const image = async (side: string, token = service.operatorSecret) =>
    fetch(`${service.address}/api/projects/${project}/pictures/${taken.id}/0/${side}`, {
      headers: { authorization: `Bearer ${token}` },
    });
  const sides = await Promise.all(
    ['before', 'after', 'difference'].map(async (side) => {
      const answer = await image(side);
      assert.equal(answer.headers.get('content-type'), 'image/png');
      assert.match(answer.headers.get('content-security-policy') ?? '', /sandbox/);
      return PNG.sync.read(Buffer.from(await answer.arrayBuffer()));
    }),
  );
  assert.deepEqual(new Set(sides.map(({ width }) => width)), new Set([1280]));
  assert.equal(
    new Set(sides.map(({ data }) => createHash('sha256').update(data).digest('hex'))).size,
    3,
  );
  // Nobody else sees them, and there is no more than there is.
  const { secret } = await service.person('mallory', null);
  assert.deepEqual(
    [(await image('before', secret)).status, (await image('none')).status],
    [404, 404],
  );
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { out } = await vaquero('compare', project, '1', '2');
  assert.match(out, /^pictures +1 page looks otherwise, 2 are new/m);
  assert.match(out, /^ +\/ +\d+(?:\.\d+)? % of its pixels$/m);
});

test('another style is pictured though no page differs; without a map that asks nothing is', async (t) => {
  const { service, made } = await begun(t);
  await made.push('Two', site({ 'a.css': 'h1{color:#c00}' }));
  const taken = await until(
    'they are taken',
    async () => {
      const seen = await compared(service, 1, 2);
      return seen?.state === 'taken' && seen;
    },
    { withinMs: 90_000, seen: () => compared(service, 1, 2) },
  );
  assert.deepEqual(
    taken.pages.map(({ after, share }) => [after, (share ?? 0) > 0]),
    [
      ['index.html', true],
      ['fares.html', true],
    ],
  );
  assert.equal((await compared(service, 2, 2))?.state, 'none');
  await changeMap(service, project, (text) => text.replace('pictures: yes, ', ''));
  assert.equal(await compared(service, 1, 2), null);
});

test('a page that steers its browser reaches nothing and says nothing but how it looks; only who took them ends them', async (t) => {
  const { service, made } = await begun(t);
  // Noise is no smaller packed: three megabytes of it.
  const noise = `<canvas width=1200 height=900></canvas><script>
    const context = document.querySelector('canvas').getContext('2d');
    const image = context.createImageData(1200, 900);
    for (let at = 0; at < image.data.length; at += 1) image.data[at] = at % 4 === 3 ? 255 : Math.random() * 256;
    context.putImageData(image, 0, 0);
  </script>`;
  const steers = `<script>
    const tell = (text) => { document.body.style.background = text; };
    fetch('${service.address}/api/health').then(() => tell('red'), () => tell('lime'));
    fetch('file:///pictures/job.json').then(() => tell('red'), () => {});
    document.title = JSON.stringify({ place: 0, share: 0 });
    console.log(JSON.stringify({ place: 0, share: 0 }));
    window.open('file:///etc/passwd');
    alert('stay');
  </script>`;
  await made.push(
    'Two',
    site({
      'index.html': page('One', steers),
      'loop.html': '<script>for(;;){}</script>',
      'noise.html': noise,
    }),
  );
  const taken = await until(
    'they are taken',
    async () => {
      const seen = await compared(service, 1, 2);
      return (seen?.state === 'taken' || seen?.state === 'failed') && seen;
    },
    { withinMs: 120_000, seen: () => compared(service, 1, 2) },
  );
  const [index, loop, large] = taken.pages;
  assert.ok((index?.share ?? 0) > 0.5);
  const shown = await fetch(
    `${service.address}/api/projects/${project}/pictures/${taken.id}/0/after`,
    { headers: { authorization: `Bearer ${service.operatorSecret}` } },
  );
  const { data } = PNG.sync.read(Buffer.from(await shown.arrayBuffer()));
  assert.deepEqual([...data.subarray(0, 3)], [0, 255, 0], 'lime: it reached nothing');
  assert.deepEqual([loop?.share, loop?.sides, /\S/.test(loop?.why ?? '')], [null, [], true]);
  assert.deepEqual(
    [large?.after, large?.sides, large?.why],
    ['noise.html', [], 'its pictures are larger than 2 MiB'],
  );
  const end = await fetch(`${service.address}/role/pictures/${taken.id}/ends`, {
    method: 'POST',
    headers: {
      ...headersOfRole(service.environment.VAQUERO_RUNNER_TOKEN ?? ''),
      'content-type': 'application/json',
    },
    body: JSON.stringify({ fence: 1, why: null, pages: [] }),
  });
  assert.equal(end.status, 404);
});
