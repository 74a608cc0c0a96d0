import assert from 'node:assert/strict';
import test from 'node:test';
import { byTwoApis } from './attack/apis.ts';
import type { Attack, Attempt, Target } from './attack/attempt.ts';
import { atTheEdge } from './attack/edges.ts';
import { byGit, fromAGitHost } from './attack/git.ts';
import { overHttp } from './attack/http.ts';
import { byMachines } from './attack/liars.ts';
import { byAPage } from './attack/pages.ts';
import { byRecipe } from './attack/recipes.ts';
import { bySize } from './attack/size.ts';
import { fromInside } from './attack/walls.ts';
import { startTestService } from './support/service.ts';

/** The whole of it, as `npm run attack` asks for; else the part that takes no browser and no hosts that hang. */
const isWhole = process.env.VAQUERO_ATTACK === 'whole';
/** One kind alone, for whoever works at it. */
const only = process.env.VAQUERO_ATTACK_ONLY;
const attacks: Readonly<Record<string, { readonly attack: Attack; readonly quick: boolean }>> = {
  'from inside a build': { attack: fromInside, quick: true },
  'by recipes': { attack: byRecipe, quick: true },
  'over HTTP': { attack: overHttp, quick: true },
  'at an edge': { attack: atTheEdge, quick: true },
  'by Git': { attack: byGit, quick: true },
  'by a page in a browser': { attack: byAPage, quick: false },
  'from a Git host': { attack: fromAGitHost, quick: false },
  'by two apis at once': { attack: byTwoApis, quick: true },
  'by size': { attack: bySize, quick: false },
  'by a runner and an edge that lie': { attack: byMachines, quick: true },
};
const needsRoot = process.getuid?.() === 0 ? false : 'only root gives builds a uid of their own';

test('an instance under attack holds', { skip: needsRoot }, async (t) => {
  const service = await startTestService(t);
  const made = await service.project('target');
  await (await service.project('other')).push('Others’', { 'index.html': 'moored' });
  const builder = await service.person('wren', 'builder', 'target');
  const target: Target = {
    service,
    builder,
    push: async (files) => {
      const { state, number, failure } = await made.push('An attack', files);
      const log = await fetch(`${service.address}/api/projects/target/builds/${number}/log`, {
        headers: { authorization: `Bearer ${service.operatorSecret}` },
      });
      return { state, log: await log.text(), why: failure?.why ?? '' };
    },
  };
  await target.push({ 'index.html': 'x' });
  const all: Attempt[] = [];
  for (const [name, { attack, quick }] of Object.entries(attacks)) {
    if (isWhole ? only !== undefined && only !== name : !quick) continue;
    await t.test(name, async () => {
      const attempts = await attack(target);
      all.push(...attempts);
      for (const { what, held, expected, saw } of attempts)
        if (isWhole || !held)
          process.stdout.write(
            `${held ? 'held' : 'BROKE'}   ${what}${held ? '' : `: expected ${expected}, saw ${saw}`}\n`,
          );
      assert.deepEqual(
        attempts.filter(({ held }) => !held).map(({ what }) => what),
        [],
      );
    });
  }
  process.stdout.write(`${all.length} attempts, ${all.filter(({ held }) => held).length} held\n`);
  if (only === undefined) assert.ok(all.length >= 150, `only ${all.length} attempts`);
});
