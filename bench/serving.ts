import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';
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
  const floor = await startNginx(page, 1);
  try {
    const host = `staging.pages.localhost:${here.edgePort}`;
    const ours: number[] = [];
    const theirs: number[] = [];
    const bare: number[] = [];
    const nothing = await startBare(page);
    const cold = rate(here.edgePort, host, 1);
    for (let round = 0; round < rounds; round += 1) {
      theirs.push(rate(floor.port, 'localhost', 3));
      ours.push(rate(here.edgePort, host, 3));
      bare.push(rate(nothing.port, host, 3));
    }
    nothing.stop();
    const ratio = median(ours) / median(theirs);
    const alone = median(ours);
    const two = await ofTwo(here, host, page);
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
        what: 'the same',
        ours: `${alone.toFixed(0)} requests/s`,
        floor: `${median(bare).toFixed(0)}: a server of Node’s with as many fields and nothing behind it`,
        ratio: (alone / median(bare)).toFixed(2),
        wanted: '> 0.75',
        good: alone / median(bare) > 0.75,
      },
      two,
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

/** What Node itself gives: the same bytes below as many fields, whatever is asked for. */
async function startBare(page: string): Promise<{ port: number; stop: () => void }> {
  const port = 4997;
  const fields = Array.from({ length: 13 }, (_, n) => [`X-Field-${n}`, 'a value of some length']);
  const text = `const page = Buffer.from(${JSON.stringify(page)});
require('node:http').createServer((_, res) => {
  res.writeHead(200, [...${JSON.stringify(fields.flat())}, 'Content-Length', String(page.length)]);
  res.end(page);
}).listen(${port}, '127.0.0.1');`;
  const server = spawn(process.execPath, ['-e', text], { stdio: 'ignore' });
  await answers(port);
  return { port, stop: () => void server.kill() };
}

/** Both with two processes; ours serves from the copy on the disk, as it does while the api is away. */
async function ofTwo(here: Installation, host: string, page: string): Promise<Row> {
  const port = 4998;
  const edge = spawn(process.execPath, [join(import.meta.dirname, '../dist/edge.mjs')], {
    env: {
      PATH: process.env.PATH,
      VAQUERO_STATE: here.state,
      VAQUERO_API: 'http://127.0.0.1:1',
      VAQUERO_EDGE_TOKEN: 'nobody-answers-to-this',
      VAQUERO_EDGE_PORT: String(port),
      VAQUERO_EDGE_PROCESSES: '2',
      VAQUERO_LOG_LEVEL: 'silent',
    },
    stdio: 'ignore',
  });
  const floor = await startNginx(page, 2);
  try {
    await answers(port);
    const ours: number[] = [];
    const theirs: number[] = [];
    rate(port, host, 1);
    for (let round = 0; round < rounds; round += 1) {
      theirs.push(rate(floor.port, 'localhost', 2));
      ours.push(rate(port, host, 2));
    }
    const ratio = median(ours) / median(theirs);
    return {
      what: 'the same with two processes each',
      ours: `${median(ours).toFixed(0)} requests/s`,
      floor: `${median(theirs).toFixed(0)}: nginx, two processes`,
      ratio: ratio.toFixed(2),
      wanted: '> 0.7',
      good: ratio > 0.7,
    };
  } finally {
    const ended = once(edge, 'exit');
    edge.kill('SIGTERM');
    await Promise.all([ended, floor.stop()]);
  }
}

/** Waits until something answers at a port, whatever it says. */
async function answers(port: number): Promise<void> {
  const asked = (): Promise<boolean> =>
    fetch(`http://127.0.0.1:${port}/`).then(
      () => true,
      () => false,
    );
  while (!(await asked())) await pause(50);
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

async function startNginx(
  page: string,
  processes: number,
): Promise<{ port: number; stop: () => Promise<void> }> {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-floor-'));
  chmodSync(folder, 0o755);
  mkdirSync(join(folder, 'site'));
  writeFileSync(join(folder, 'site/index.html'), page);
  const port = 4990 + processes;
  writeFileSync(
    join(folder, 'nginx.conf'),
    `daemon off; worker_processes ${processes}; pid ${folder}/pid; error_log stderr crit;
events { worker_connections 1024; }
http { access_log off; sendfile on; tcp_nopush on; keepalive_requests 1000000; types { text/html html; }
  server { listen 127.0.0.1:${port}; root ${folder}/site; } }
`,
  );
  const server = spawn('nginx', ['-p', folder, '-c', join(folder, 'nginx.conf')], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  await answers(port);
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
