import { readMap } from '@vaquero/contracts';
import {
  type CommitId,
  compareMaps,
  destinationOf,
  type Head,
  type Instant,
  type RefName,
  refOfPullRequest,
  whatLives,
} from '@vaquero/core';
import type { Row } from './commit-to-live.ts';
import { median, took } from './timing.ts';

const rounds = 15;
const commit = 'a'.repeat(40) as CommitId;
const heads: readonly Head[] = [
  ...Array.from({ length: 1000 }, (_, place) => ({
    ref: `refs/heads/${place % 3 === 0 ? 'try' : 'work'}/branch-${place}` as RefName,
    into: null,
    commit,
  })),
  ...Array.from({ length: 500 }, (_, place) => ({
    ref: refOfPullRequest(place + 1),
    into: place % 2 === 0 ? 'main' : 'release',
    commit,
  })),
];

function mapOf(more: string) {
  const read = readMap(
    `map: bench
lanes: [production, rehearsal, staging, preview]
environments:
  production: {accepts: {from: rehearsal}}
  rehearsal: {accepts: {from: staging}}
  staging: {follows: {branch: [main, harbour]}}
  preview: {each: {proposed-into: main, branch: [${more}]}, at-most: 200}
`,
    1,
    'main',
  );
  if (!read.ok) throw new Error('the map of the bench is none');
  return read.value;
}

/** A map over 1,000 branches and 500 pull requests: where each goes, what should live, what another map would change. */
export function benchMaps(): Promise<readonly Row[]> {
  const [before, after] = [mapOf('"try/*"'), mapOf('"try/*", "work/branch-1*"')];
  const present = { heads, living: [], ended: [], standing: ['staging'], now: 1 as Instant };
  const ours: number[] = [];
  const floor: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    ours.push(
      took(() => {
        for (const { ref, into } of heads) destinationOf(before, ref, into);
        whatLives(before, present);
        compareMaps(before, after, present);
      }),
    );
    // What reading and writing the same refs as text takes.
    floor.push(took(() => JSON.parse(JSON.stringify(heads))));
  }
  const [mine, bare] = [median(ours), median(floor)];
  return Promise.resolve([
    {
      what: 'a map over 1,500 refs, compared',
      ours: `${mine.toFixed(1)} ms`,
      floor: `${bare.toFixed(1)} ms (the refs as JSON)`,
      ratio: (mine / bare).toFixed(1),
      wanted: '≤ 50 ms',
      good: mine <= 50,
    },
  ]);
}
