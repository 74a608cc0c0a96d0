import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { execa } from 'execa';
import { makeWorkingCopy } from '../support/working-copy.ts';
import { type Attack, type Attempt, judge } from './attempt.ts';

const mebibyte = 1 << 20;

/** Packs that are small until they are opened, and repositories of a hundred thousand names. */
export const bySize: Attack = async ({ service, builder }) => {
  const copy = await makeWorkingCopy(join(service.state, 'large'));
  const remote = `http://x:${builder.git}@${new URL(service.address).host}/git/target.git`;
  const attempts: Attempt[] = [];
  const push = async (what: string, branch: string): Promise<void> => {
    await copy.commit(what, {});
    const before = process.memoryUsage().rss;
    const pushing = execa('git', ['push', '-q', remote, `HEAD:refs/heads/${branch}`], {
      cwd: copy.folder,
      reject: false,
      timeout: 120_000,
    });
    // People are answered while it comes.
    let slowestMs = 0;
    let isOver = false;
    const asking = (async () => {
      while (!isOver) {
        const began = performance.now();
        await fetch(`${service.address}/health`);
        slowestMs = Math.max(slowestMs, performance.now() - began);
      }
    })();
    const { exitCode } = await pushing;
    isOver = true;
    await asking;
    const grown = Math.round((process.memoryUsage().rss - before) / mebibyte);
    attempts.push(judge(`${what}: the push has an end`, /^(?:0|1)$/, String(exitCode)));
    attempts.push(
      judge(`${what}: the api’s memory`, /^bounded/, grown < 600 ? 'bounded' : `${grown} MiB`),
    );
    attempts.push(
      judge(
        `${what}: answers meanwhile`,
        /^quick$/,
        slowestMs < 3000 ? 'quick' : `${slowestMs} ms`,
      ),
    );
  };
  // Four hundred million zeros are four hundred thousand bytes on their way.
  const zeros = Buffer.alloc(mebibyte);
  await pipeline(
    Readable.from(Array.from({ length: 400 }, () => zeros)),
    createWriteStream(join(copy.folder, 'film.bin')),
  );
  await push('a file that inflates a thousandfold', 'film');
  await execa('git', ['rm', '-q', 'film.bin'], { cwd: copy.folder });
  const blob = (
    await execa('git', ['hash-object', '-w', '--stdin'], { cwd: copy.folder, input: 'x' })
  ).stdout;
  mkdirSync(join(copy.folder, 'x'));
  const rows = Array.from(
    { length: 150_000 },
    (_, n) => `100644 ${blob}\td${n % 300}/f${n}\n`,
  ).join('');
  await execa('git', ['update-index', '--add', '--index-info'], { cwd: copy.folder, input: rows });
  const tree = (await execa('git', ['write-tree'], { cwd: copy.folder })).stdout;
  const author = ['-c', 'user.name=x', '-c', 'user.email=x@kettle.example'];
  const commit = (
    await execa('git', [...author, 'commit-tree', '-m', 'x', tree], { cwd: copy.folder })
  ).stdout;
  await execa('git', ['update-ref', 'HEAD', commit], { cwd: copy.folder });
  const end = await execa('git', ['push', '-q', remote, `${commit}:refs/heads/names`], {
    cwd: copy.folder,
    reject: false,
    timeout: 120_000,
  });
  attempts.push(
    judge('a hundred and fifty thousand names: the push has an end', /^0$/, String(end.exitCode)),
  );
  return attempts;
};
