import { readFileSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { createParser } from 'eventsource-parser';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { openWorkshop } from './workshop.ts';

const perSecond = 5_000;
const seconds = 20;
/** Lines of the first second are not counted: processes compile their code meanwhile. */
const warmUpLines = perSecond;

/** Writes a line with the time in it, 50 at once, as often as makes the rate. */
const speaker = `
const perTick = 50;
let said = 0;
const begun = Date.now();
const timer = setInterval(() => {
  const due = Math.min(${perSecond * seconds}, Math.floor(((Date.now() - begun) / 1000) * ${perSecond}));
  let text = '';
  for (; said < due; said += 1) text += Date.now() + ' sailing ' + said + ' leaves Lune Quay on time\\n';
  if (text !== '') process.stdout.write(text);
  if (said >= ${perSecond * seconds}) clearInterval(timer);
}, 1000 * perTick / ${perSecond});
`;

/**
 * A step that says 5,000 lines a second, followed by a reader as the console follows it: how long after a
 * line was written the reader has it, and what the api's memory does meanwhile.
 */
export async function benchLog(here: Installation): Promise<readonly Row[]> {
  const shop = await openWorkshop(here, 'announcements');
  shop.commit({
    'speak.js': speaker,
    'page.html': '<h1>x</h1>',
    'vaquero.yaml':
      'steps: {speak: {run: [node speak.js, mkdir out, cp page.html out/index.html]}}\nserve: {site: out}\n',
  });
  const built = shop.push();
  const heard = await follow(here, shop.name);
  await built;
  const late = heard.lateMs.slice(warmUpLines).toSorted((a, b) => a - b);
  const at = (share: number): number => late[Math.floor(late.length * share)] ?? Number.NaN;
  const isWhole = heard.inOrder && heard.lateMs.length === perSecond * seconds;
  // The first half brings the heap to what such a stream takes; behind it nothing may pile up.
  const half = Math.floor(heard.residentMiB.length / 2);
  const first = Math.max(...heard.residentMiB.slice(0, half));
  const second = Math.max(...heard.residentMiB.slice(half));
  return [
    {
      what: `a line of a step at ${perSecond} lines a second, from its writing to its reader, p99 (p50 ${at(0.5).toFixed(0)} ms)`,
      ours: `${at(0.99).toFixed(0)} ms${isWhole ? '' : ', lines lost or doubled'}`,
      floor: '',
      ratio: '',
      wanted: '< 100 ms',
      good: at(0.99) < 100 && isWhole,
    },
    {
      what: 'the api’s memory at its most in the second half of that, against the first half',
      ours: `${second.toFixed(0)} MiB`,
      floor: `${first.toFixed(0)} MiB`,
      ratio: (second / first).toFixed(2),
      wanted: '≤ 1.1',
      good: second / first <= 1.1,
    },
  ];
}

interface Heard {
  /** For each line how long after its writing it came, in ms. */
  readonly lateMs: readonly number[];
  readonly inOrder: boolean;
  /** The api's memory, four times a second. */
  readonly residentMiB: readonly number[];
}

async function follow(here: Installation, project: string): Promise<Heard> {
  const lateMs: number[] = [];
  let inOrder = true;
  const resident: number[] = [];
  let rest = '';
  const stream: { ended: 'no' | 'over' | 'not begun' } = { ended: 'no' };
  const hear = (text: string): void => {
    const now = Date.now();
    const lines = (rest + text).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      const read = /^(\d{13}) sailing (\d+) /.exec(line);
      if (read === null) continue;
      inOrder &&= Number(read[2]) === lateMs.length;
      lateMs.push(now - Number(read[1]));
    }
  };
  const parser = createParser({
    onEvent: ({ event, data }) => {
      if (event === 'end') stream.ended = 'over';
      else if (event === 'none') stream.ended = 'not begun';
      else hear(JSON.parse(data) as string);
    },
  });
  const pid = here.supervision.pids().api ?? 0;
  const watching = setInterval(() => {
    if (lateMs.length > 0) resident.push(residentMiB(pid));
  }, 250);
  const decoder = new TextDecoder();
  while (stream.ended !== 'over') {
    // A build that has not begun has no log to follow yet.
    if (stream.ended === 'not begun') await pause(20);
    stream.ended = 'no';
    const answer = await fetch(`${here.client.address}/api/projects/${project}/builds/1/log`, {
      headers: { ...here.client.headers, accept: 'text/event-stream' },
    });
    if (!answer.ok) {
      await pause(20);
      continue;
    }
    for await (const chunk of answer.body ?? []) {
      parser.feed(decoder.decode(chunk as Uint8Array, { stream: true }));
      if (stream.ended !== 'no') break;
    }
  }
  clearInterval(watching);
  return { lateMs, inOrder, residentMiB: resident };
}

/** Memory that a process holds, in MiB. Format: proc_pid_status(5). */
function residentMiB(pid: number): number {
  return Number(/^VmRSS:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1024;
}
