import assert from 'node:assert/strict';
import { execFileSync, spawn } from 'node:child_process';
import test from 'node:test';
import { freePort, temporaryFolder, until } from './support/place.ts';
import { askEdge, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const program = new URL('../dist/edge.mjs', import.meta.url).pathname;

test('600 MB are served, and compressed, with 256 MB of memory', async (t) => {
  const service = await startTestService(t, { roles: ['runner', 'edge'] });
  const { push } = await service.project('timetable');
  const bytes = 600_000_000;
  const build = await push('Soundings', {
    'vaquero.yaml': recipeOf(
      `${writesPage('front')}\nyes "depth 12.4 fathoms off Lune Quay" | head -c ${bytes} > out/soundings.csv`,
    ),
  });
  assert.equal(build.state, 'passed', JSON.stringify(build.failure));
  await service.stopEdge();
  const port = await freePort();
  // All of what the process may map: more than 256 MB of its own and it is over.
  const edge = spawn(
    process.execPath,
    ['--max-old-space-size=128', '--max-semi-space-size=4', program],
    {
      env: {
        ...process.env,
        ...service.environment,
        VAQUERO_EDGE_PORT: String(port),
        VAQUERO_EDGE_MEMORY_MB: '64',
        VAQUERO_LOG_LEVEL: 'warn',
      },
      stdio: 'inherit',
    },
  );
  t.after(() => edge.kill('SIGKILL'));
  const host = `staging.timetable.localhost:${port}`;
  await until('it answers', () =>
    askEdge(port, host, '/').then(
      (page) => page.status === 200,
      () => false,
    ),
  );
  const residentKb = (): number =>
    Number(execFileSync('ps', ['-o', 'rss=', '-p', String(edge.pid)], { encoding: 'utf8' }).trim());
  let most = 0;
  const folder = temporaryFolder(t);
  const download = (name: string, ...more: readonly string[]) =>
    new Promise<number>((resolve, reject) => {
      const curl = spawn(
        'curl',
        [
          ...[
            '--silent',
            '--show-error',
            '--fail',
            '--output',
            `${folder}/${name}`,
            '--header',
            `Host: ${host}`,
          ],
          ...['--write-out', '%{size_download}', ...more, `http://127.0.0.1:${port}/soundings.csv`],
        ],
        { stdio: ['ignore', 'pipe', 'inherit'] },
      );
      let said = '';
      curl.stdout.on('data', (text: Buffer) => {
        said += text.toString();
        most = Math.max(most, residentKb());
      });
      curl.once('error', reject);
      curl.once('close', () => resolve(Number(said)));
    });
  const watching = setInterval(() => {
    most = Math.max(most, residentKb());
  }, 50);
  t.after(() => clearInterval(watching));
  const all = await Promise.all(['a', 'b', 'c'].map((name) => download(name)));
  assert.deepEqual(all, [bytes, bytes, bytes]);
  const squeezed = await until(
    'a compressed form is made',
    async () => {
      const size = await download('z', '--header', 'Accept-Encoding: br, gzip');
      return size < bytes / 10 && size;
    },
    { withinMs: 120_000 },
  );
  clearInterval(watching);
  assert.ok(squeezed > 0);
  assert.ok(most < 256 * 1024, `${Math.round(most / 1024)} MB were in use`);
});
