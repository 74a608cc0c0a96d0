import assert from 'node:assert/strict';
import test from 'node:test';
import {
  auditRoutes,
  buildRoutes,
  environmentRoutes,
  mapRoutes,
  previewRoutes,
  projectRoutes,
  pullRequestRoutes,
} from '@vaquero/contracts';
import { sql } from 'drizzle-orm';
import { serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const many = 5000;
/** A page of a list, and some more. */
const most = 300;
/** What only grows: none of it is read whole, however much there is. */
const growing = [
  'artifacts',
  'attempts',
  'builds',
  'changes',
  'deploys',
  'environments',
  'holds',
  'intakes',
  'keyed_calls',
  'log_entries',
  'log_personal',
  'pull_requests',
  'sessions',
];
const params = { project: 'timetable' };

/** Years of history behind what the project has by now, and as much again of projects beside it. */
async function growOld({ deps }: TestService): Promise<void> {
  const rows = sql.raw(`seq_1_to_${many}`);
  const old = sql`cast(concat('019aabce-0000-7000-8000-', lpad(seq, 12, '0')) as uuid)`;
  const run = (statement: ReturnType<typeof sql>) => deps.db.execute(statement);
  await run(sql`update deploys set number = number + ${many}, intake = intake + ${many},
    undoes_first = undoes_first + ${many}, undoes_last = undoes_last + ${many}`);
  await run(
    sql`update environments set last_deploy = last_deploy + ${many}, intake = intake + ${many}`,
  );
  await run(sql`update intakes set intake = intake + ${many}`);
  await run(sql`update builds set number = number + ${many}`);
  await run(sql`insert into builds
    select ${old}, project_id, seq, if(seq % 9 = 0, 'failed', 'passed'), ref, unhex(sha1(seq)), subject, author,
      committed_at, cause, change_id, recipe, queued_at, started_at, ended_at, unhex(sha2(seq, 256)), failure, attempts, null,
      reused_from, earlier, priority, overtaken_by, needs, recipe_name, proposed_into, trust, meant, aim, folder, variables, begun_by, author_mail
    from builds join ${rows} where builds.number = ${many + 1}`);
  await run(sql`update projects set last_build = last_build + ${many}`);
  await run(sql`insert into environments (id, project_id, name, place, rule, ref, living, ended_at, ended_because, touched_at)
    select uuid(), (select id from projects where name = 'timetable'), concat('try-', seq), 2, 'preview', concat('refs/heads/try/', seq),
      null, seq, 'untouched', seq from ${rows}`);
  const beside = sql`(select id from environments where project_id = (select id from projects where name = 'timetable') and name = concat('try-', seq))`;
  for (const own of [true, false])
    await run(sql`insert into deploys
      select uuid(), ${own ? sql`environment_id` : beside}, seq, 'automatic', ${old}, commit_id, unhex(sha2(seq, 256)), configuration, null, null, null,
        seq, uuid(), null, 'git', null, committed_at - 4000000000 + seq, committed_at, 1, null, null
      from (select * from deploys where number = ${many + 1} ${own ? sql`` : sql`limit 1`}) deploys join ${rows}`);
  await run(sql`insert into intakes select environment_id, seq, null, build_id, 'deployed'
    from intakes join ${rows} where intakes.intake = ${many + 1}`);
  await run(sql`insert into changes select uuid(), repository_id, look * 100000 + seq, ref, from_commit, to_commit,
    doorbell, actor_id, at from changes join ${rows} limit ${many}`);
  await run(sql`insert into attempts select uuid(), ${old}, fence, runner_id, instance, unhex(sha2(seq, 256)), state,
    lease_until, log_bytes, null, true from (select * from attempts limit 1) one join ${rows}`);
  await run(sql`insert into artifacts select project_id, unhex(sha2(seq, 256)), ${old}, files, bytes, stored_at,
    if(seq % 50 = 0, null, stored_at), format from (select * from artifacts limit 1) one join ${rows}`);
  await run(
    sql`insert into sessions select unhex(sha2(seq, 256)), (select id from people limit 1), 1, 9999999999999 from ${rows}`,
  );
  await run(sql`insert into keyed_calls (actor_id, \`key\`, \`call\`, at)
    select uuid(), seq, unhex(sha2(seq, 256)), 9999999999999 from ${rows}`);
  await run(sql`insert into pull_requests select uuid(), (select repository_id from projects limit 1), seq, '', 'main',
    'elsewhere', 'b', 'closed', null, (select id from people limit 1), 1, 1, null, false from ${rows}`);
  await run(sql`insert into log_entries select 1000001 + seq, at, 'build.cancelled', project_id, bytes, leaf
    from log_entries join ${rows} where position = 1`);
  await run(
    sql`insert into log_personal select seq + 1000000, 'origin', 'salt', 'value' from ${rows}`,
  );
  await run(sql.raw(`analyze table ${growing.join()}`));
}

test('nothing that is asked while a project is used reads what only grows, however old it is', async (t) => {
  let heard: Map<string, readonly unknown[]> | null = null;
  const service = await startTestService(t, {
    onStatement: (text, values) => void heard?.set(text, values),
  });
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await service.promote('timetable');
  await changeMap(service, 'timetable', (text) =>
    text.replace('proposed-into: main', 'proposed-into: main, branch: "look/*"'),
  );
  await made.copy.git('push', '--quiet', made.remote, 'main:look/larger');
  await serves(service, 'look-larger', 3);
  await growOld(service);

  const statements = new Map<string, readonly unknown[]>();
  heard = statements;
  const { operator } = service;
  const lanes = await operator.call(environmentRoutes.lanesRoute, { params });
  const [top] = lanes.environments;
  assert.deepEqual(
    [top?.name, top?.wayBack?.build, top?.serves?.number],
    ['production', many + 1, many + 2],
  );
  await operator.call(environmentRoutes.liveRoute);
  await operator.call(projectRoutes.listProjectsRoute);
  const { previews } = await operator.call(previewRoutes.listPreviewsRoute, { params });
  assert.deepEqual(
    previews.map(({ family }) => family.owner?.name),
    ['ines'],
  );
  await operator.call(buildRoutes.listBuildsRoute, { params });
  await operator.call(buildRoutes.showBuildRoute, { params: { ...params, build: many + 2 } });
  await operator.call(buildRoutes.endedBuildsRoute, { query: { since: new Date().toISOString() } });
  await operator.call(pullRequestRoutes.listPullRequestsRoute, { params });
  await operator.call(auditRoutes.auditRoute, { params });
  const { text } = await operator.call(mapRoutes.showMapRoute, { params });
  const wider = text.replace('branch: "look/*"', 'branch: "*"');
  await operator.call(mapRoutes.tryMapRoute, { params, body: { text: wider } });
  await operator.call(mapRoutes.whyRoute, { params, query: { ref: 'main' } });
  const production = { ...params, environment: 'production' };
  const history = await operator.call(environmentRoutes.historyRoute, { params: production });
  assert.deepEqual([history.total, history.deploys.length, history.more], [many + 2, 50, true]);
  await operator.call(environmentRoutes.rollBackRoute, {
    params: production,
    body: {
      reason: 'the old pier',
      seen: { generation: top?.generation ?? 0, artifact: top?.serves?.artifact ?? null },
    },
  });
  await operator.call(environmentRoutes.showDeployRoute, {
    params: { ...production, deploy: many + 2 },
  });
  const held = await service.environmentOf('timetable', 'production');
  await operator.call(environmentRoutes.liftHoldRoute, {
    params: production,
    body: { generation: held.generation },
  });
  // A whole push, and what every loop asks meanwhile.
  const third = await made.push('Three', { 'vaquero.yaml': recipeOf(writesPage('three')) });
  assert.equal(third.failure, null);
  heard = null;

  const found: string[] = [];
  for (const [text, values] of statements) {
    if (!/^(?:select|update|delete)/i.test(text)) continue;
    // What is only read is carried out once more, and tells how many rows it really read.
    const how = sql.raw(/^select/i.test(text) ? 'analyze' : 'explain');
    const [plans] = await service.deps.db.execute(sql`${how} ${asSent(text, values)}`);
    for (const { table, key, rows, r_rows } of plans as unknown as readonly Plan[]) {
      const read = Number(r_rows ?? rows);
      if (growing.includes(table?.replace(/^previous$/, 'deploys') ?? '') && read > most)
        found.push(`${table}: ${read} rows by ${key} for ${text.slice(0, 900)}`);
    }
  }
  assert.ok(statements.size > 80, `only ${statements.size} different statements were seen`);
  assert.equal(found.length, 0, found.join('\n'));
});

interface Plan {
  readonly table: string | null;
  readonly key: string | null;
  readonly rows: number | string | null;
  readonly r_rows?: number | string | null;
}

/** The very statement, with the very values that it was sent with. */
function asSent(text: string, values: readonly unknown[]) {
  const [first = '', ...rest] = text.split('?');
  return sql.join([
    sql.raw(first),
    ...rest.flatMap((part, place) => [sql`${values[place]}`, sql.raw(part)]),
  ]);
}
