import { execFileSync } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import { mapRoutes, previewRoutes, pullRequestRoutes } from '@vaquero/contracts';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';
import { openWorkshop } from './workshop.ts';

const branches = 1_000;
const proposed = 500;
/** Those that are opened together share their looks. */
const together = 50;
/** As many as a family may have. */
const previews = 200;

// No runner here bears the label: its builds wait, so that what is measured is the map alone.
const recipe = `runner: [quay]
steps: {pages: {run: mkdir out && cp tide.txt out/index.html}}
serve: {site: out}
`;

const textOf = (more: string) => `map: bench
format: 1
lanes: [production, staging, preview]
environments:
  production: {accepts: {from: staging}}
  staging: {follows: {branch: harbour}}
  preview: {each: {branch: [${more}]}, at-most: ${previews}}
`;

/** A map set on 1,000 branches and 500 pull requests: the call, and until every environment that it wants is there with its build queued. */
export async function benchMapSet(here: Installation): Promise<readonly Row[]> {
  const project = 'charts';
  const params = { project };
  const shop = await openWorkshop(here, project);
  shop.commit({ 'vaquero.yaml': recipe, 'tide.txt': 'one' });
  const commits = Array.from({ length: branches }, (_, place) => {
    const text = `tide ${place}\n`;
    return `commit refs/heads/work/branch-${place}
committer b <b@example> 1764547200 +0000
data 6
bench
from main
M 100644 inline tide.txt
data ${text.length}
${text}
`;
  });
  const git = (args: readonly string[], input?: string): Buffer =>
    execFileSync('git', [...args], { cwd: shop.copy, input, stdio: ['pipe', 'pipe', 'ignore'] });
  git(['fast-import', '--quiet'], commits.join(''));
  // Nothing is wanted yet: neither the branches nor what is proposed starts anything.
  await set(textOf('"none/*"'), 0);
  git(['push', '--quiet', here.remote.replace('timetable.git', `${project}.git`), '--all']);
  await until(async () => (await showMap()).refCount >= branches);
  for (let from = 0; from < proposed; from += together)
    await Promise.all(
      Array.from({ length: together }, (_, place) =>
        here.client.call(pullRequestRoutes.openPullRequestRoute, {
          params,
          body: {
            branch: `work/branch-${from + place}`,
            title: `Chart ${from + place}`,
            place: null,
          },
        }),
      ),
    );

  const floor: number[] = [];
  for (let round = 0; round < 5; round += 1)
    floor.push(await took(() => set(textOf('"none/*"'), round + 1)));
  const call = await took(() => set(textOf('"work/branch-1*", "work/branch-2*"'), 0));
  const whole = call + (await took(() => until(async () => (await living()) >= previews)));
  const bare = median(floor);
  const each = (whole / previews).toFixed(1);
  return [
    {
      what: `a map set on ${branches} branches and ${proposed} pull requests`,
      ours: `${call.toFixed(0)} ms`,
      floor: `${bare.toFixed(0)} ms (one that starts nothing)`,
      ratio: (call / bare).toFixed(1),
      wanted: '≤ 1.5 s',
      good: call <= 1_500,
    },
    {
      what: `until the ${previews} previews that it starts are there, their builds queued (${each} ms each)`,
      ours: `${whole.toFixed(0)} ms`,
      floor: `${bare.toFixed(0)} ms`,
      ratio: (whole / bare).toFixed(1),
      wanted: '≤ 20 s',
      good: whole <= 20_000,
    },
  ];

  function showMap() {
    return here.client.call(mapRoutes.showMapRoute, { params });
  }
  async function set(text: string, round: number): Promise<void> {
    const { tag } = await showMap();
    await here.client.call(mapRoutes.setMapRoute, {
      params,
      body: { text: `${text}# ${round}\n`, reason: 'measured', ends: [] },
      seen: tag,
    });
  }
  async function living(): Promise<number> {
    const { previews: all } = await here.client.call(previewRoutes.listPreviewsRoute, { params });
    return all.length;
  }
}

async function took(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

async function until(isSo: () => Promise<boolean>): Promise<void> {
  while (!(await isSo())) await pause(20);
}
