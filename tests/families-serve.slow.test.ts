import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, environmentRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import fc from 'fast-check';
import { Both, type Event, happening, passing, rules } from './support/family-model.ts';
import { uidsOfTests, until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

/** What moves the standing environments, beside what happens to the previews. */
type Move = { readonly does: 'land' } | { readonly does: 'promote' } | { readonly does: 'undo' };

/** What happens next, or how long nothing does. */
type Step = Event | Move | number;

const step: fc.Arbitrary<Step> = fc.oneof(
  { weight: 5, arbitrary: happening },
  { weight: 1, arbitrary: passing },
  {
    weight: 3,
    arbitrary: fc.constantFrom<Move>({ does: 'land' }, { does: 'promote' }, { does: 'undo' }),
  },
);

/** One deploy of an environment: the commit that it served, and whether a roll back took it out. */
interface Served {
  readonly commit: number;
  undone: boolean;
}

/** The families' model, with a runner that builds every commit and an edge that answers: what each serves, and its ledger. */
class Serving extends Both {
  readonly staging: Served[] = [{ commit: -1, undone: false }];
  readonly production: Served[] = [];
  readonly previews = new Map<string, number[]>();

  async both(one: Step): Promise<void> {
    if (typeof one === 'number') {
      this.clock.now += one;
      await this.take(null);
    } else if (one.does === 'land') await this.land();
    else if (one.does === 'promote') await this.promote();
    else if (one.does === 'undo') await this.undo();
    else await this.take(one);
    for (const [name, head] of Object.entries(this.reference.living())) {
      const served = this.previews.get(name) ?? [];
      if (served.at(-1) !== head) this.previews.set(name, [...served, head]);
    }
  }

  async land(): Promise<void> {
    const { made } = this;
    await made.copy.git('checkout', '--quiet', 'main');
    const number = this.commits.length;
    await made.copy.commit('Landed', { 'tide.txt': String(number) });
    const commit = (await made.copy.git('rev-parse', 'HEAD')).trim();
    this.commits.push(commit);
    await made.copy.git('push', '--quiet', made.remote, 'main');
    await this.noticed('main', commit);
    this.staging.push({ commit: number, undone: false });
    // Each lands before the next thing happens: what overtakes what is another test's.
    await this.answers('staging', number);
  }

  async promote(): Promise<void> {
    const next = this.staging.at(-1);
    if (next === undefined || next.commit === this.production.at(-1)?.commit) return;
    if (this.production.some(({ commit, undone }) => undone && commit === next.commit)) return;
    await this.service.promote(this.params.project);
    this.production.push({ commit: next.commit, undone: false });
  }

  async undo(): Promise<void> {
    const now = this.production.at(-1);
    const back = this.production.findLast(
      ({ commit, undone }) => !undone && commit !== now?.commit,
    );
    if (now === undefined || back === undefined) return;
    const { operator } = this.service;
    const params = { ...this.params, environment: 'production' };
    const { generation, serves } = await this.service.environmentOf(
      this.params.project,
      'production',
    );
    const { generation: after } = await operator.call(environmentRoutes.rollBackRoute, {
      params,
      body: { reason: 'modelled', seen: { generation, artifact: serves?.artifact ?? null } },
    });
    await operator.call(environmentRoutes.liftHoldRoute, { params, body: { generation: after } });
    for (let place = this.production.lastIndexOf(back) + 1; ; place += 1) {
      const undone = this.production[place];
      if (undone === undefined) break;
      undone.undone = true;
    }
    this.production.push({ commit: back.commit, undone: false });
  }

  /** Waits until an environment answers with a commit's page; null for one that has ended and answers nobody. */
  answers(environment: string, commit: number | null): Promise<unknown> {
    const { project } = this.params;
    const host =
      environment === 'production' ? `${project}.localhost` : `${environment}.${project}.localhost`;
    let seen = '';
    return until(
      `${host} answers with ${commit ?? 'nothing'}`,
      async () => {
        const { status, text } = await this.service.page(host);
        seen = `${status} ${text}`;
        return commit === null ? status === 410 : status === 200 && text === String(commit);
      },
      { seen: async () => ({ seen, newest: await this.newest() }), withinMs: 60_000 },
    );
  }

  /** The newest build, with its reason where it failed: what a sequence that breaks off is understood by. */
  async newest(): Promise<unknown> {
    const { operator } = this.service;
    const { builds } = await operator.call(buildRoutes.listBuildsRoute, {
      params: this.params,
      query: { limit: 1 },
    });
    const params = { ...this.params, build: builds[0]?.number ?? 1 };
    return operator.call(buildRoutes.showBuildRoute, { params });
  }

  async holds(): Promise<void> {
    const living = this.reference.living();
    for (const name of this.previews.keys()) await this.answers(name, living[name] ?? null);
    for (const [name, ledger] of [
      ['staging', this.staging],
      ['production', this.production],
    ] as const) {
      const now = ledger.at(-1);
      if (now !== undefined) await this.answers(name, now.commit);
      assert.deepEqual(await this.ledger(name), ledger, name);
    }
    for (const [name, served] of this.previews) {
      const ledger = await this.ledger(name);
      assert.deepEqual(
        ledger.map(({ commit }) => commit),
        served,
        name,
      );
    }
  }

  async ledger(environment: string): Promise<readonly Served[]> {
    const { deploys } = await this.service.operator.call(environmentRoutes.historyRoute, {
      params: { ...this.params, environment },
      query: { limit: 200 },
    });
    return deploys
      .map(({ commit, undone }) => ({ commit: this.commits.indexOf(commit), undone }))
      .toReversed();
  }
}

/** How many sequences are played: five with the whole suite, more by `VAQUERO_SEQUENCES=50 npm test -- tests/families-serve.test.ts`. */
const sequences = Number(process.env.VAQUERO_SEQUENCES ?? 5);

test('whatever happens to branches, pull requests, map, moves and time: what each serves and its ledger are what the guide says', async (t) => {
  const clock = { now: Date.now() };
  const service = await startTestService(t, {
    clock: () => clock.now as Instant,
    // Every project has uids of its own, which stay its own while its trees are kept.
    environment: { VAQUERO_RUNNER_UIDS: uidsOfTests(2000) },
  });
  let number = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 6, maxLength: 12 }), async (events) => {
      number += 1;
      const project = `model-${number}`;
      const made = await service.project(project);
      const serving = new Serving(service, made, clock, project);
      await made.copy.commit('One', {
        'vaquero.yaml': recipeOf('mkdir -p out && cp tide.txt out/index.html'),
        'tide.txt': '-1',
      });
      await made.copy.push(made.remote);
      await made.copy.git('push', '--quiet', made.remote, 'main:harbour');
      await serving.setMap(rules[0]);
      await serving.answers('staging', -1);
      for (const [index, one] of events.entries()) {
        await serving.both(one);
        await serving
          .holds()
          .catch((error) =>
            assert.fail(`after ${JSON.stringify(events.slice(0, index + 1))}: ${error}`),
          );
      }
    }),
    { numRuns: sequences, endOnFailure: true },
  );
});
