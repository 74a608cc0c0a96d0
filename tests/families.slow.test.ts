import assert from 'node:assert/strict';
import test from 'node:test';
import type { Instant } from '@vaquero/core';
import fc from 'fast-check';
import { Both, happening, passing, rules } from './support/family-model.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

/** Projects that live beside each other, each with events of its own; time passes for all of them at once. */
const beside = 5;

/** How many sequences are played: fifty with the whole suite, more by `VAQUERO_SEQUENCES=1000 npm test -- tests/families.test.ts`. */
const sequences = Number(process.env.VAQUERO_SEQUENCES ?? 50);

const events = fc.array(
  fc.oneof(
    {
      weight: 8,
      arbitrary: fc.array(happening, { minLength: beside, maxLength: beside }),
    },
    { weight: 1, arbitrary: passing },
  ),
  { minLength: 4, maxLength: 12 },
);

test('whatever happens to branches, pull requests, map and time, in whatever order: what lives is what the guide says', async (t) => {
  const clock = { now: Date.now() };
  const service = await startTestService(t, { roles: [], clock: () => clock.now as Instant });
  let number = 0;
  const begin = async (): Promise<Both> => {
    number += 1;
    const project = `model-${number}`;
    const made = await service.project(project);
    await made.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
    await made.copy.push(made.remote);
    await made.copy.git('push', '--quiet', made.remote, 'main:harbour');
    const both = new Both(service, made, clock, project);
    await both.setMap(rules[0]);
    return both;
  };
  await fc.assert(
    fc.asyncProperty(events, async (steps) => {
      const all = await Promise.all(Array.from({ length: beside }, begin));
      for (const [index, step] of steps.entries()) {
        if (typeof step === 'number') clock.now += step;
        await Promise.all(
          all.map(async (both, place) => {
            await both.take(typeof step === 'number' ? null : (step[place] ?? null));
            assert.deepEqual(
              await both.living(),
              both.reference.living(),
              `after ${toldOf(steps.slice(0, index + 1), place)}`,
            );
          }),
        );
      }
      for (const [place, both] of all.entries())
        assert.deepEqual(await both.told(), both.reference.told(), toldOf(steps, place));
    }),
    { numRuns: Math.ceil(sequences / beside), endOnFailure: false },
  );
});

/** What happened to one of the projects. */
function toldOf(steps: readonly (number | readonly unknown[])[], place: number): string {
  return JSON.stringify(steps.map((step) => (typeof step === 'number' ? step : step[place])));
}
