import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import { auditRoutes, buildRoutes, environmentRoutes, makeClient } from '@vaquero/contracts';
import { canonical } from '@vaquero/core';
import { sql } from 'drizzle-orm';
import { serves } from './support/lanes.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { sleeper } from './support/sleeper.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const page = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
const production = { project: 'timetable', environment: 'production' };

test('of two promotions at once one moves production, and the other is told what changed', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', page('one'));
  const outcomes = await Promise.allSettled([
    service.promote('timetable'),
    service.promote('timetable'),
    service.promote('timetable'),
  ]);
  assert.equal(outcomes.filter((one) => one.status === 'fulfilled').length, 1);
  for (const outcome of outcomes) {
    if (outcome.status === 'fulfilled') continue;
    const problem = await refusalOf(Promise.reject(outcome.reason));
    assert.equal(problem.code, 'environment-moved');
    assert.match(
      problem.detail,
      /it served nothing, and serves [0-9a-f]{8} since .* \(deploy 1, by ines\)/,
    );
  }
  const history = await service.operator.call(environmentRoutes.historyRoute, {
    params: production,
    query: { limit: 10 },
  });
  assert.equal(history.total, 1);
});

test('a slow older build never takes staging back from a newer one', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const old = sleeper();
  await made.copy.commit('Slow', {
    'vaquero.yaml': recipeOf(`${old.shell}; ${writesPage('old')}`),
  });
  assert.ok((await made.copy.push(made.remote)).ok);
  await until('the slow build is noticed', () =>
    service.operator.call(buildRoutes.showBuildRoute, {
      params: { project: 'timetable', build: 1 },
    }),
  );
  await made.copy.commit('Fast', page('new'));
  assert.ok((await made.copy.push(made.remote)).ok);
  await serves(service, 'staging', 2);
  const older = await old.wakeFor(service.buildEnded('timetable', 1));
  assert.equal(older.state, 'passed');
  assert.deepEqual(older.live, []);
  const staging = await service.environmentOf('timetable', 'staging');
  assert.deepEqual([staging.serves?.build, staging.serves?.number], [2, 1]);
});

test('a held staging keeps what it serves; when the hold is lifted the newest build goes live, not those between', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', page('one'));
  await made.push('Two', page('two'));
  const seen = await service.environmentOf('timetable', 'staging');
  const params = { project: 'timetable', environment: 'staging' };
  await service.operator.call(environmentRoutes.rollBackRoute, {
    params,
    body: {
      reason: 'wrong',
      seen: { generation: seen.generation, artifact: seen.serves?.artifact ?? null },
    },
  });
  await made.push('Three', page('three'));
  await made.push('Four', page('four'));
  const held = await service.environmentOf('timetable', 'staging');
  assert.deepEqual([held.serves?.build, held.waits.kind], [1, 'build']);
  await service.operator.call(environmentRoutes.liftHoldRoute, {
    params,
    body: { generation: held.generation },
  });
  const after = await service.environmentOf('timetable', 'staging');
  assert.deepEqual([after.serves?.build, after.serves?.number, after.hold], [4, 4, null]);
});

test('a rollback goes where it is told, says what it undoes, and stays possible while held', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  for (const text of ['one', 'two', 'three']) {
    await made.push(text, page(text));
    await service.promote('timetable');
  }
  const roll = async (to?: { deploy: number } | { build: number }) => {
    const now = await service.environmentOf('timetable', 'production');
    return service.operator.call(environmentRoutes.rollBackRoute, {
      params: production,
      body: {
        reason: 'wrong',
        seen: { generation: now.generation, artifact: now.serves?.artifact ?? null },
        ...(to === undefined ? {} : { to }),
      },
    });
  };
  assert.deepEqual((await roll({ build: 1 })).deploy.undoes, { first: 2, last: 3 });
  assert.deepEqual((await roll({ deploy: 3 })).deploy.build, 3);
  // 2 and 3 are undone; 1 was made again by 4, which the last rollback undid: no way back is left.
  assert.equal((await refusalOf(roll({ deploy: 3 }))).code, 'already-serves');
  const never = [await refusalOf(roll({ deploy: 99 })), await refusalOf(roll({ build: 99 }))];
  assert.deepEqual(
    never.map(({ code, detail }) => [code, detail]),
    [
      ['no-way-back', 'production has no deploy 99.'],
      ['no-way-back', 'Build 99 was never live in production.'],
    ],
  );
  assert.equal(
    (await service.page(`timetable.localhost:${service.edgePort}`)).text,
    '<h1>three</h1>',
  );
  const hold = (await service.environmentOf('timetable', 'production')).hold;
  assert.equal(hold?.reason, 'wrong');
});

test('a call with the same idempotency key is carried out once, and refused for another call', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', page('one'));
  const [target, staging] = [
    await service.environmentOf('timetable', 'production'),
    await service.environmentOf('timetable', 'staging'),
  ];
  const body = {
    from: 'staging',
    artifact: staging.serves?.artifact ?? assert.fail(),
    seen: { generation: target.generation, artifact: null },
  };
  const promote = (key: string, change: object = {}) =>
    service.operator.call(environmentRoutes.promoteRoute, {
      params: production,
      body: { ...body, ...change },
      key,
    });
  // A refused call leaves its key free for another one.
  const stale = { seen: { generation: target.generation + 1, artifact: null } };
  assert.equal((await refusalOf(promote('k1', stale))).code, 'environment-moved');
  // Two at once are one; which of them was carried out and which is answered with what came of it is all the same.
  const both = await Promise.all([promote('k1'), promote('k1')]);
  assert.equal(both.filter(({ ms }) => ms === null).length, 1);
  const [once, beside] = both.map((reply) => ({ ...reply, ms: null }));
  assert.deepEqual(beside, once);
  assert.deepEqual(await promote('k1'), once);
  assert.ok(once?.confirmed);
  assert.equal(once.deploy.number, 1);
  const now = await service.environmentOf('timetable', 'production');
  assert.equal(now.generation, once.generation);
  assert.equal((await refusalOf(promote('k1', { reason: 'x' }))).code, 'key-used-otherwise');
});

test('a reply that was lost is given when the same call comes again, and nothing is done twice', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', page('one'));
  const { operator, deps } = service;
  /** Makes a call and leaves at the very moment that it is on record; then makes it again. */
  const loseReply = async <Reply>(kind: string, call: (signal?: AbortSignal) => Promise<Reply>) => {
    const gone = new AbortController();
    const quit = deps.follower.listen((entry) => {
      if (entry.kind === kind) gone.abort();
    });
    await assert.rejects(call(gone.signal), { name: 'AbortError' });
    quit();
    return call();
  };
  const [target, staging] = [
    await service.environmentOf('timetable', 'production'),
    await service.environmentOf('timetable', 'staging'),
  ];
  const promoted = await loseReply('environment.promoted', (signal) =>
    operator.call(environmentRoutes.promoteRoute, {
      params: production,
      body: {
        from: 'staging',
        artifact: staging.serves?.artifact ?? assert.fail(),
        seen: { generation: target.generation, artifact: null },
      },
      key: 'promote',
      ...(signal === undefined ? {} : { signal }),
    }),
  );
  assert.deepEqual([promoted.deploy.number, promoted.confirmed, promoted.ms], [1, true, null]);

  const asked = await loseReply('build.asked-for', (signal) =>
    operator.call(buildRoutes.buildAgainRoute, {
      params: { project: 'timetable' },
      body: { build: 1 },
      key: 'again',
      ...(signal === undefined ? {} : { signal }),
    }),
  );
  assert.equal(asked.number, 2);
  const { builds } = await operator.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
  });
  assert.deepEqual(
    builds.map(({ number }) => number),
    [2, 1],
  );
  // A move is answered for ever: its key stands in the ledger.
  await deps.db.execute(sql`delete from keyed_calls`);
  const later = await operator.call(environmentRoutes.promoteRoute, {
    params: production,
    body: {
      from: 'staging',
      artifact: promoted.deploy.artifact,
      seen: { generation: target.generation, artifact: null },
    },
    key: 'promote',
  });
  assert.deepEqual(later, promoted);
});

test('with no edge running a promotion is committed and never called confirmed; the edge that comes confirms it', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', page('one'));
  await service.stopEdge();
  const reply = (await service.promote('timetable')) as {
    confirmed: boolean;
    unheard: { edge: string }[];
  };
  assert.deepEqual([reply.confirmed, reply.unheard.map((one) => one.edge)], [false, ['edge-1']]);
  assert.equal((await service.environmentOf('timetable', 'production')).serves?.confirmedAt, null);
  await service.startEdge();
  assert.equal(
    (await service.page(`timetable.localhost:${service.edgePort}`)).text,
    '<h1>one</h1>',
  );
  assert.notEqual(
    (await service.environmentOf('timetable', 'production')).serves?.confirmedAt,
    null,
  );
});

test('every decision stands in one order, with exact bytes and a leaf hash that can be made again', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await Promise.all([
    made.push('One', page('one')),
    service.person('petra', 'builder', 'timetable'),
    service.person('wren', 'builder', 'timetable'),
  ]);
  await service.promote('timetable');
  const { entries } = await service.operator.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 200 },
  });
  const kinds = entries.map((entry) => entry.kind);
  for (const kind of [
    'project.made',
    'change.seen',
    'artifact.stored',
    'build.passed',
    'environment.automatic',
    'environment.promoted',
  ])
    assert.ok(kinds.includes(kind), kind);
  const positions = entries.map((entry) => entry.position);
  assert.equal(new Set(positions).size, positions.length);
  assert.deepEqual(
    positions,
    positions.toSorted((a, b) => b - a),
  );
  for (const entry of entries) {
    const parsed = JSON.parse(entry.bytes) as {
      position: number;
      at: number;
      kind: string;
      origin: string | null;
      actor: { id: string };
    };
    assert.deepEqual(
      [parsed.position, parsed.at, parsed.kind],
      [entry.position, entry.at, entry.kind],
    );
    assert.equal(canonical(parsed as never), entry.bytes);
    assert.equal(entry.leaf, createHash('sha256').update(`\0${entry.bytes}`).digest('hex'));
    // Where it came from is kept beside the log, and stands in it as a salted hash only.
    assert.doesNotMatch(entry.bytes, /127\.0\.0\.1/);
  }
  const promoted = entries.find((entry) => entry.kind === 'environment.promoted');
  assert.match(promoted?.bytes ?? '', /"through":"api"/);
});

test('the client names what does not answer as it should', async () => {
  const client = makeClient({ address: 'http://127.0.0.1:9' });
  await assert.rejects(client.call(environmentRoutes.liveRoute), { name: 'ServiceUnreachable' });
});

test('what was seen in staging is what moves, though something newer was pushed; what was undone there may not', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  for (const text of ['one', 'two', 'three'])
    await made.push(text, { 'vaquero.yaml': recipeOf(writesPage(text)) });
  const built = async (build: number) => {
    const { artifact } = await service.operator.call(buildRoutes.showBuildRoute, {
      params: { project: 'timetable', build },
    });
    return artifact?.digest ?? assert.fail(`build ${build} made nothing`);
  };
  const promote = async (build: number) => {
    const { generation, serves } = await service.environmentOf('timetable', 'production');
    return service.operator.call(environmentRoutes.promoteRoute, {
      params: { project: 'timetable', environment: 'production' },
      body: {
        from: 'staging',
        artifact: await built(build),
        seen: { generation, artifact: serves?.artifact ?? null },
      },
    });
  };
  const moved = await promote(2);
  assert.deepEqual([moved.deploy.build, moved.deploy.commit.length], [2, 40]);
  assert.match(String((await service.page('timetable.localhost')).body), /two/);
  assert.equal((await refusalOf(promote(2))).code, 'already-serves');
  // Staging goes back from the third to the second: the third goes no further.
  const staging = await service.environmentOf('timetable', 'staging');
  await service.operator.call(environmentRoutes.rollBackRoute, {
    params: { project: 'timetable', environment: 'staging' },
    body: {
      reason: 'the third is broken',
      seen: { generation: staging.generation, artifact: staging.serves?.artifact ?? null },
    },
  });
  const undone = await refusalOf(promote(3));
  assert.deepEqual(
    [undone.code, /Build 3 was rolled back in staging/.test(undone.detail)],
    ['undone-there', true],
  );
  assert.equal((await promote(1)).deploy.build, 1);
  // What staging never had is refused, with what it has.
  const { generation } = await service.environmentOf('timetable', 'production');
  const never = await refusalOf(
    service.operator.call(environmentRoutes.promoteRoute, {
      params: production,
      body: {
        from: 'staging',
        artifact: 'f'.repeat(64) as never,
        seen: { generation, artifact: null },
      },
    }),
  );
  assert.equal(never.code, 'environment-moved');
});
