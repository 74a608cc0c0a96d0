import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { median, type Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { openWorkshop } from './workshop.ts';

const pageBytes = 20 * 1024;
const rounds = 5;
const idle = 10_000;

/**
 * A page of 20 KiB over 32 connections that stay open, asked for by a program that costs little (wrk), beside what a
 * web server of Debian's (nginx) answers with one process, in turn. Both without a log and without compression.
 */
export async function benchServing(here: Installation): Promise<readonly Row[]> {
  const page = `<!doctype html><title>Timetable</title>${'Lune Quay to Orrin, every hour. '.repeat(pageBytes / 32)}`;
  const shop = await openWorkshop(here, 'pages');
  shop.commit({ 'index.html': page });
  await shop.push();
  const floor = await startNginx(page);
  try {
    const host = `staging.pages.localhost:${here.edgePort}`;
    const ours: number[] = [];
    const theirs: number[] = [];
    const cold = rate(here.edgePort, host, 1);
    for (let round = 0; round < rounds; round += 1) {
      theirs.push(rate(floor.port, 'localhost', 3));
      ours.push(rate(here.edgePort, host, 3));
    }
    const ratio = median(ours) / median(theirs);
    const alone = median(ours);
    const beside = await withIdle(here.edgePort, () => rate(here.edgePort, host, 3));
    return [
      {
        what: `a page of 20 KiB, 32 connections (cold ${cold.toFixed(0)}/s)`,
        ours: `${alone.toFixed(0)} requests/s`,
        floor: `${median(theirs).toFixed(0)}: nginx, one process`,
        ratio: ratio.toFixed(2),
        wanted: '> 0.55',
        good: ratio > 0.55,
      },
      {
        what: `the same beside ${beside.open} idle connections`,
        ours: `${beside.result.toFixed(0)} requests/s`,
        floor: `${alone.toFixed(0)}: without them`,
        ratio: (beside.result / alone).toFixed(2),
        wanted: '> 0.8',
        good: beside.result / alone > 0.8,
      },
    ];
  } finally {
    await floor.stop();
  }
}

/** Requests a second that are answered with 200, all of them. Throws when one is not. */
function rate(port: number, host: string, seconds: number): number {
  const end = spawnSync(
    'wrk',
    ['-t1', '-c32', `-d${seconds}s`, '-H', `Host: ${host}`, `http://127.0.0.1:${port}/`],
    { encoding: 'utf8' },
  );
  const found = /Requests\/sec:\s+([\d.]+)/.exec(end.stdout)?.[1];
  if (end.status !== 0 || found === undefined || /Non-2xx/.test(end.stdout))
    throw new Error(`wrk: ${end.stdout}${end.stderr}`);
  return Number(found);
}

/** Does something while so many connections are open and say nothing; some of those limits may not allow. */
async function withIdle<T>(port: number, work: () => T): Promise<{ result: T; open: number }> {
  const sockets = [];
  for (let n = 0; n < idle; n += 1) {
    const socket = connect(port, '127.0.0.1');
    socket.on('error', () => undefined); // What limits do not allow is not counted below.
    sockets.push(socket);
    if (n % 200 === 199) await pause(20);
  }
  await pause(500);
  const open = sockets.filter((socket) => socket.readyState === 'open').length;
  try {
    return { result: work(), open };
  } finally {
    for (const socket of sockets) socket.destroy();
    await pause(500);
  }
}

async function startNginx(page: string): Promise<{ port: number; stop: () => Promise<void> }> {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-floor-'));
  chmodSync(folder, 0o755);
  mkdirSync(join(folder, 'site'));
  writeFileSync(join(folder, 'site/index.html'), page);
  const port = 4990;
  writeFileSync(
    join(folder, 'nginx.conf'),
    `daemon off; worker_processes 1; pid ${folder}/pid; error_log stderr crit;
events { worker_connections 1024; }
http { access_log off; sendfile on; tcp_nopush on; keepalive_requests 1000000; types { text/html html; }
  server { listen 127.0.0.1:${port}; root ${folder}/site; } }
`,
  );
  const server = spawn('nginx', ['-p', folder, '-c', join(folder, 'nginx.conf')], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  for (;;) {
    const answers = await fetch(`http://127.0.0.1:${port}/`).then(
      () => true,
      () => false,
    );
    if (answers) break;
    await pause(50);
  }
  return {
    port,
    stop: async () => {
      const ended = once(server, 'exit');
      server.kill('SIGQUIT');
      await ended;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
