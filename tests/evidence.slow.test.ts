import assert from 'node:assert/strict';
import { createPublicKey, verify } from 'node:crypto';
import test from 'node:test';
import { buildRoutes, evidenceRoutes, variableRoutes } from '@vaquero/contracts';
import { stopsFor } from './support/maps.ts';
import { startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const params = { project: 'timetable' };
const copies = recipeOf('cp -r site out');

test('an artifact is inspected before anything serves it: links, assets, anchors, styles, addresses', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await stopsFor(service, 'timetable', ['secret-value']);
  const build = await made.push('A page with faults', {
    'vaquero.yaml': copies,
    'site/index.html': `<!doctype html><link rel=stylesheet href=style.css>
<h1 id=top>x</h1><a href="fares.html#winter">fares</a> <a href=gone.html>gone</a>
<img src="map.svg" srcset="map.svg 1x, map-2.svg 2x"><script src="app.js"></script>
<p style="background:url(paper.png)">Open http://localhost:3000</p><form action="http://localhost:3000/api">`,
    'site/fares.html': '<!doctype html><h2 id="summer">Summer</h2>',
    'site/style.css':
      '@import "print.css";\n@font-face{src:url("a.woff2")}\n.x{background:url(#grid)}',
    'site/map.svg': '<svg xmlns="http://www.w3.org/2000/svg"><image href="tile.png"/></svg>',
  });
  assert.equal(build.failure, null);
  const { inspection } = build.evidence;
  assert.deepEqual(
    inspection?.findings.map(({ rule, path, line, message }) => [rule, `${path}:${line}`, message]),
    [
      ['broken-asset', 'index.html:3', 'refers to map-2.svg, which is not there'],
      ['broken-asset', 'index.html:3', 'refers to app.js, which is not there'],
      ['broken-asset', 'index.html:4', 'refers to paper.png, which is not there'],
      ['broken-asset', 'map.svg:1', 'refers to tile.png, which is not there'],
      ['broken-asset', 'style.css:1', 'refers to print.css, which is not there'],
      ['broken-asset', 'style.css:2', 'refers to a.woff2, which is not there'],
      ['broken-link', 'index.html:2', 'refers to gone.html, which is not there'],
      ['private-address', 'index.html:4', 'speaks of http://localhost:3000'],
      [
        'broken-anchor',
        'index.html:2',
        'refers to fares.html#winter, and fares.html has no winter',
      ],
    ],
  );
  assert.equal(build.steps.find((step) => step.name === 'inspect')?.state, 'warned');

  // The map may stop for more; then nothing of it is served anywhere.
  await stopsFor(service, 'timetable', ['secret-value', 'broken-asset']);
  const held = await made.push('Held now', { 'site/more.html': '<img src=none.png>' });
  assert.equal(held.state, 'failed');
  assert.match(
    held.failure?.what ?? '',
    /^The inspection stopped it: index\.html, line 3, refers to .*, and 6 more\.$/,
  );
  assert.deepEqual(held.artifact, null);
  assert.equal((await service.environmentOf('timetable', 'staging')).serves?.build, 1);
  assert.equal(
    (await service.page(`build-2.timetable.artifacts.localhost:${service.edgePort}`)).status,
    404,
  );
});

test('an output that holds a secret is stopped, with file and line, and so is one with a key', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await service.operator.call(variableRoutes.setVariableRoute, {
    params: { ...params, variable: 'MAP_KEY' },
    body: { kind: 'secret', value: 'low-water-at-six' },
  });
  const build = await made.push('Baked in', {
    'vaquero.yaml': copies,
    'site/index.html': '<h1>x</h1>\n<script>const key = "low-water-at-six"</script>',
  });
  assert.equal(
    build.failure?.what,
    'The inspection stopped it: index.html, line 2, holds the value of the secret MAP_KEY.',
  );
  assert.doesNotMatch(JSON.stringify(build), /low-water/);
  const key = await made.push('A key', {
    'site/index.html': '<h1>x</h1>',
    'site/deploy.pem': `-----BEGIN OPENSSH ${'PRIVATE'} KEY-----\nAAAA\n`,
  });
  assert.match(key.failure?.what ?? '', /deploy\.pem, line 1, holds a private key\.$/);
  const good = await made.push('Neither', { 'site/deploy.pem': null });
  assert.equal(good.failure, null);
});

test('a committed file in the output is told from one that the build wrote in its place, by its bytes', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const recipe = (run: string) =>
    `steps: {pages: {run: ${JSON.stringify(run)}}}\nserve: {site: out}\n`;
  const page = '<!doctype html><title>t</title><p>tide';
  const files = {
    'out/index.html': 'old output',
    'out/left.html': page,
    'out/same.html': page,
    'out/empty.txt': '',
    'src/page.html': page,
  };
  const unwritten = ({ evidence }: Awaited<ReturnType<typeof made.push>>) =>
    (evidence.inspection?.findings ?? [])
      .filter((finding) => finding.rule === 'not-written')
      .map((finding) => finding.path)
      .toSorted();
  const first = await made.push('Old output', {
    ...files,
    'vaquero.yaml': recipe('cp src/page.html out/index.html; echo more >> out/same.html'),
  });
  assert.deepEqual(unwritten(first), ['empty.txt', 'left.html']);
  // All of it is written now; what still reads as before cannot be told from what was left.
  const second = await made.push('Writes all', {
    'vaquero.yaml': recipe(
      'rm -r out && mkdir out && for name in index left same; do echo $name > out/$name.html; done',
    ),
  });
  assert.deepEqual(unwritten(second), []);
  // Where the folder itself is published, nothing needs to be written.
  const third = await made.push('Published as it is', { 'vaquero.yaml': 'serve: {site: out}\n' });
  assert.deepEqual(unwritten(third), []);
});

test('where an artifact came from is signed, and checked with the public key alone', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('One', { 'vaquero.yaml': copies, 'site/index.html': '<h1>x</h1>' });
  const { pem, keyId } = await service.operator.call(evidenceRoutes.signingKeyRoute);
  const { payload, payloadType, signatures } = await service.operator.call(
    evidenceRoutes.provenanceRoute,
    { params: { ...params, build: 1 } },
  );
  const bytes = Buffer.from(payload, 'base64');
  const signed = (content: Buffer): boolean =>
    verify(
      null,
      evidenceRoutes.signedBytes(payloadType, content),
      createPublicKey(pem),
      Buffer.from(signatures[0]?.sig ?? '', 'base64'),
    );
  assert.equal(signatures[0]?.keyid, keyId);
  assert.equal(signed(bytes), true);
  assert.equal(signed(Buffer.from(bytes.toString().replace('build-1', 'build-2'))), false);
  const statement = JSON.parse(bytes.toString());
  assert.deepEqual(statement.subject, [
    { name: 'timetable/build-1', digest: { sha256: build.artifact?.digest } },
  ]);
  assert.equal(statement.predicateType, 'https://slsa.dev/provenance/v1');
  const { buildDefinition, runDetails } = statement.predicate;
  assert.deepEqual(buildDefinition.resolvedDependencies[0].digest, { gitCommit: build.commit.id });
  assert.equal(buildDefinition.externalParameters.recipe.steps[0].name, 'pages');
  assert.equal(runDetails.metadata.finishedOn.length, '2026-11-23T00:00:00Z'.length);
  assert.match(buildDefinition.internalParameters.tools.node, /^v20\./);
});

test('a log is searched by step and text, and each line has its number, step and time', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Two that talk', {
    'vaquero.yaml': `steps:
  left: {run: "for i in 1 2 3; do echo left $i; sleep 0.1; done"}
  right: {run: "for i in 1 2 3; do printf 'right '; sleep 0.1; echo $i; done"}
  pages: {run: mkdir out && echo x > out/index.html, after: [left, right]}
serve: {site: out}
`,
  });
  const lines = (query: { step?: string; find?: string }) =>
    service.operator.call(buildRoutes.logLinesRoute, {
      params: { ...params, build: 1 },
      query: { limit: 100, ...query },
    });
  // However the two took turns, no line is torn and each is its step's own.
  assert.deepEqual(
    (await lines({ step: 'right' })).lines.slice(1).map((line) => line.text),
    ['right 1', 'right 2', 'right 3'],
  );
  const found = (await lines({ find: 'LEFT 2' })).lines;
  assert.deepEqual(
    found.map((line) => [line.step, line.text]),
    [['left', 'left 2']],
  );
  assert.ok((found[0]?.at ?? 0) > 0 && (found[0]?.number ?? 0) > 1);
});
