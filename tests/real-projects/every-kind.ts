// `npm run real-projects`: every kind of project that people have, made, pushed and looked at, as a table.
// Words after the command choose kinds by their names.
import assert from 'node:assert/strict';
import { Console } from 'node:console';
import test from 'node:test';
import { execa } from 'execa';
import { startTestService } from '../support/service.ts';
import { debianKinds } from './debian-kinds.ts';
import { firstPush, type Row } from './first-push.ts';
import { generatorKinds } from './generator-kinds.ts';
import { packageKinds } from './package-kinds.ts';

const wanted = (process.env.REAL_PROJECTS ?? '').split(',').filter((word) => word !== '');
const chosen = [...packageKinds, ...generatorKinds, ...debianKinds].filter(
  ({ name }) => wanted.length === 0 || wanted.some((word) => name.includes(word)),
);
const rows: Row[] = [];
const screen = new Console(process.stdout);

test('every kind of project goes live rightly at its first push, or says why not', {
  timeout: 3_600_000,
}, async (t) => {
  const missing = [...new Set(chosen.flatMap((kind) => kind.debian ?? []))];
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  if (missing.length > 0) {
    await execa('apt-get', ['update', '-qq'], { env });
    await execa('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], {
      env,
    });
  }
  const service = await startTestService(t, {
    environment: { VAQUERO_RUNNER_SLOTS: '2', VAQUERO_RUNNER_UIDS: '3400000-3400399' },
  });
  const left = [...chosen.entries()];
  const work = async (): Promise<void> => {
    for (let next = left.shift(); next !== undefined; next = left.shift()) {
      const row = await firstPush(service, next[1], `kind-${next[0]}`);
      rows.push(row);
      screen.log(`${row.isRight ? 'right' : 'WRONG'}  ${row.kind}: ${row.saw}`);
      if (!row.isRight) screen.log(row.log);
    }
  };
  await Promise.all([work(), work()]);
  screen.table(
    rows.map(({ kind, proposed, built, landmark, seconds, cause }) => ({
      kind,
      proposed,
      built,
      landmark,
      seconds,
      cause,
    })),
  );
  const wrong = rows.filter((row) => !row.isRight);
  screen.log(`${rows.length - wrong.length} of ${rows.length} as they should be`);
  assert.deepEqual(
    wrong.map((row) => `${row.kind}: ${row.saw}`),
    [],
  );
});
