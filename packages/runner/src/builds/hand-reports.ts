import { Readable } from 'node:stream';
import { cleanPath, fixedPart, isPattern, matchesPath, type RecipeStep } from '@vaquero/core';
import { type InTree, inTree } from '../sources/in-tree.ts';
import type { BuildAt } from './build-at.ts';
import type { StepLog } from './step-log.ts';

/** What is read of reports: of one, and of all that one build writes. */
const most = { reportBytes: 4 << 20, bytes: 32 << 20, reports: 200 } as const;
/** So much is heard of the names of what lies where reports may lie. */
const mostNames = 8 << 20;
/** Reading is quick; what a build left there to hold it up gains it nothing. */
const stepMs = 30_000;

/** What reports of a build have been handed over. */
export interface ReportBudget {
  reports: number;
  bytes: number;
}

/** Lists files and links below a folder, none of them followed: kind, size and path. Source: find(1). */
const list = `find "$1" \\( -name node_modules -o -name .git \\) -prune -o \\( -type f -o -type l \\) -printf '%y%s %p\\0' 2>/dev/null`;
/** Says the files that are named to it, a line each. A link or a pipe that took the place of one says nothing. */
const read = `while IFS= read -r -d '' path; do
  if [ -f "$path" ] && [ ! -L "$path" ]; then head -c ${most.reportBytes + 1} -- "$path" 2>/dev/null | base64 -w 0; fi; echo
done`;

interface Listed {
  readonly path: string;
  readonly isLink: boolean;
  readonly bytes: number;
}

/**
 * Hands over the reports that a step wrote. They are found and read behind the walls by the build's own uid, once the
 * step has ended: a link among them leads nowhere that the build could not go itself.
 */
export async function handReports(
  at: BuildAt,
  step: RecipeStep,
  where: Pick<InTree, 'tree' | 'mounts'>,
  log: StepLog,
): Promise<void> {
  // A build that is over has nobody to hand them to.
  if (at.signal.aborted) return;
  for (const kind of ['tests', 'findings'] as const) {
    for (const pattern of step.results[kind]) {
      const found = (await listBelow(at, where, fixedFolder(pattern))).filter(({ path }) =>
        matchesPath(pattern, path),
      );
      if (found.length === 0) log.say(`step ${step.name} wrote no report ${pattern}`);
      const wanted = found.filter((one) => isWanted(at, one, log));
      const texts = wanted.length === 0 ? [] : await contentsOf(at, where, wanted);
      for (const [place, { path }] of wanted.entries()) {
        const text = at.mask(texts[place] ?? '');
        const problem = await at.api.report({ step: step.name, kind, path, text });
        if (problem !== null) log.say(`the report ${path} cannot be read: ${problem}`);
      }
    }
  }
}

function fixedFolder(pattern: string): string {
  if (isPattern(pattern)) return fixedPart(pattern);
  return cleanPath(pattern.split('/').slice(0, -1).join('/'));
}

/** Whether a report is to be read; what is left out is said in the log, and the build goes on. */
function isWanted({ reports: used }: BuildAt, one: Listed, log: StepLog): boolean {
  const without = ((): string | null => {
    if (one.isLink) return 'is a link';
    if (one.bytes > most.reportBytes) return `is over ${most.reportBytes >> 20} MiB`;
    if (used.reports >= most.reports) return `is one of over ${most.reports} of this build`;
    if (used.bytes + one.bytes > most.bytes)
      return `would make over ${most.bytes >> 20} MiB of reports of this build`;
    return null;
  })();
  if (without !== null) {
    log.say(`the report ${one.path} ${without} and was not read`);
    return false;
  }
  used.reports += 1;
  used.bytes += one.bytes;
  return true;
}

async function listBelow(
  at: BuildAt,
  where: Pick<InTree, 'tree' | 'mounts'>,
  folder: string,
): Promise<readonly Listed[]> {
  const said = await hear(
    at,
    { ...where, command: ['/bin/sh', '-c', list, 'sh', `./${folder}`] },
    mostNames,
  );
  return said
    .toString()
    .split('\0')
    .flatMap((row) => {
      const [, kind, bytes, path] = /^([fl])(\d+) (?:\.\/)+(.+)$/s.exec(row) ?? [];
      if (path === undefined) return [];
      return [{ path, isLink: kind === 'l', bytes: Number(bytes) }];
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** The texts of some reports, in their order. */
async function contentsOf(
  at: BuildAt,
  where: Pick<InTree, 'tree' | 'mounts'>,
  wanted: readonly Listed[],
): Promise<readonly string[]> {
  const input = Readable.from([Buffer.from(wanted.map(({ path }) => `${path}\0`).join(''))]);
  const command = ['/bin/bash', '-c', read];
  const said = await hear(at, { ...where, command, input }, 2 * most.bytes);
  return said
    .toString('latin1')
    .split('\n')
    .map((line) => Buffer.from(line, 'base64').toString('utf8'));
}

async function hear(
  at: BuildAt,
  what: Omit<InTree, 'hear' | 'stepMs'>,
  mostBytes: number,
): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let left = mostBytes;
  await inTree(at, {
    ...what,
    stepMs,
    hear: (bytes) => {
      chunks.push(bytes.subarray(0, Math.max(0, left)));
      left -= bytes.length;
      return left > 0;
    },
  });
  // However it ended, what it said until then is what there is: a build without a report is told so.
  return Buffer.concat(chunks);
}
