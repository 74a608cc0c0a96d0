import { compareFiles, comparePages, type Manifest } from '@vaquero/core';
import type { Row } from './commit-to-live.ts';
import { median, took } from './timing.ts';

const rounds = 7;
const files = 50_000;
const changed = 500;
/** So many pages of a comparison are read. */
const pages = 250;

function manifestText(version: number): string {
  const all = Array.from({ length: files }, (_, place) => ({
    path: `quays/${place % 97}/page-${place}.html`,
    digest: String(place * 10 + (place < changed ? version : 0)).padStart(64, '0'),
    sizeBytes: 20_000,
    mode: 0o644,
  }));
  return JSON.stringify({ format: 1, site: { files: all, entry: 'index.html', missing: null } });
}

/** A page of a timetable, with one navigation for all and a sailing of its own. */
function pageText(place: number, version: number): string {
  const sailings = Array.from(
    { length: 60 },
    (_, row) => `${row}:${place % 60} Lune Quay to Orrin`,
  );
  return [
    `Timetable Fares${version === 1 ? '' : ' Departures'}`,
    ...sailings,
    `Sailing ${place}, ${version}`,
  ].join('\n');
}

/** Two artifacts of 50,000 files, 500 of them changed: manifests read, files compared, and what 250 pages say. */
export function benchComparisons(): Promise<readonly Row[]> {
  const [before, after] = [manifestText(1), manifestText(2)];
  const texts = Array.from({ length: pages }, (_, place) => ({
    path: `page-${place}.html`,
    before: pageText(place, 1),
    after: pageText(place, 2),
  }));
  const ours: number[] = [];
  const floor: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    floor.push(took(() => [JSON.parse(before), JSON.parse(after)]));
    ours.push(
      took(() => {
        const [one, other] = [JSON.parse(before) as Manifest, JSON.parse(after) as Manifest];
        compareFiles(one.site.files, other.site.files);
        comparePages(texts);
      }),
    );
  }
  const [mine, bare] = [median(ours), median(floor)];
  return Promise.resolve([
    {
      what: 'two artifacts of 50,000 files, 500 changed, compared',
      ours: `${mine.toFixed(0)} ms`,
      floor: `${bare.toFixed(0)} ms (their manifests as JSON)`,
      ratio: (mine / bare).toFixed(1),
      wanted: '≤ 1 s',
      good: mine <= 1000,
    },
  ]);
}
