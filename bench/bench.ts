import Table from 'cli-table3';
import { benchGraph, benchQueue, benchStoring } from './builds.ts';
import { benchCommitToLive, type Row } from './commit-to-live.ts';
import { startForBench } from './installation.ts';
import { benchRollbacks } from './roll-backs.ts';

const here = await startForBench(4900);
const rows: Row[] = [];
try {
  process.stderr.write('commit to live …\n');
  const { row, shellMs } = await benchCommitToLive(here);
  rows.push(row);
  process.stderr.write('storing and inspecting …\n');
  rows.push(...(await benchStoring(here, shellMs)));
  process.stderr.write('a graph of 40 steps …\n');
  rows.push(await benchGraph(here));
  process.stderr.write('a queue of 200 builds …\n');
  rows.push(await benchQueue(here));
  process.stderr.write('rollbacks under load …\n');
  rows.push(...(await benchRollbacks(here)));
} finally {
  await here.stop();
}
const table = new Table({
  head: ['what', 'ours', 'floor', 'ratio', 'wanted', ''],
  style: { head: [], border: [] },
});
table.push(
  ...rows.map((row) => [
    row.what,
    row.ours,
    row.floor,
    row.ratio,
    row.wanted,
    row.good ? 'met' : 'MISSED',
  ]),
);
process.stdout.write(`${table.toString()}\n`);
process.exit(rows.every((row) => row.good) ? 0 : 1);
