import Table from 'cli-table3';
import { benchGraph, benchInspection, benchQueue, benchStoring } from './builds.ts';
import { benchClient } from './client.ts';
import { benchCommitToLive, type Row } from './commit-to-live.ts';
import { benchComparisons } from './comparisons.ts';
import { type Installation, startForBench } from './installation.ts';
import { benchLog } from './logs.ts';
import { benchManyHosts } from './many-hosts.ts';
import { benchMapSet } from './map-set.ts';
import { benchMaps } from './maps.ts';
import { benchRollbacks } from './roll-backs.ts';
import { benchServing } from './serving.ts';

/** Each figure by its name: `npm run bench graph queue` measures only those. */
const figures = {
  live: async (here: Installation) => {
    const { row, shell } = await benchCommitToLive(here);
    return [row, ...(await benchStoring(here, shell))];
  },
  graph: async (here: Installation) => [await benchGraph(here)],
  queue: async (here: Installation) => [await benchQueue(here)],
  inspection: async (here: Installation) => [await benchInspection(here)],
  log: benchLog,
  rollbacks: benchRollbacks,
  serving: benchServing,
  client: benchClient,
  maps: benchMaps,
  'map-set': benchMapSet,
  'many-hosts': benchManyHosts,
  comparisons: benchComparisons,
};

const asked = process.argv.slice(2);
const unknown = asked.find((name) => !(name in figures));
if (unknown !== undefined)
  throw new Error(`no figure is called ${unknown}; there are ${Object.keys(figures).join(', ')}`);
const here = await startForBench(4900);
const rows: Row[] = [];
try {
  for (const [name, measure] of Object.entries(figures)) {
    if (asked.length > 0 && !asked.includes(name)) continue;
    process.stderr.write(`${name} …\n`);
    rows.push(...(await measure(here)));
  }
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
