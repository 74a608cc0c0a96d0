import { request } from 'node:http';

/** What passengers and the programs of others ask for, some of it by old addresses and some of it in vain. */
const walk: readonly string[] = [
  '/',
  '/style.css',
  '/board.js',
  '/timetable/lune-quay/',
  '/planner/lune-quay/orrin',
  '/fares',
  '/departures.txt',
  '/',
  '/timetable/orrin/',
  '/fahrplan',
  '/timetable/merrow-point/',
  '/planner/',
  '/preise',
  '/favicon.ico',
  '/departures.txt',
  '/timetable/tarn-wick',
  '/apply-for-a-berth',
];

/** Asks an edge for one page; what comes, and whether anything does, is no matter. */
function ask(edgePort: number, host: string, path: string): Promise<void> {
  return new Promise((resolve) => {
    const asking = request(
      { host: '127.0.0.1', port: edgePort, path, headers: { host }, agent: false, timeout: 5_000 },
      (res) => {
        res.resume();
        res.once('close', resolve);
      },
    );
    asking.once('timeout', () => asking.destroy());
    asking.once('error', () => resolve());
    asking.end();
  });
}

const production = 'timetable.localhost';
const staging = 'staging.timetable.localhost';

/** A few passengers between two happenings of the story. */
export async function passBy(edgePort: number, most: number): Promise<void> {
  for (const path of walk.slice(0, most)) {
    await ask(edgePort, production, path);
    if (path.length < 3) await ask(edgePort, staging, path);
  }
}

const everyMs = 700;

/** Lets a visitor walk about for as long as the demo runs. Returns what sends it home. */
export function walkAbout(edgePort: number): () => void {
  let step = 0;
  const timer = setInterval(() => {
    const path = walk[step % walk.length] ?? '/';
    void ask(edgePort, step % 6 === 5 ? staging : production, path);
    step += 1;
  }, everyMs);
  timer.unref();
  return () => clearInterval(timer);
}
