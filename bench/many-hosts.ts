import { environmentRoutes, projectRoutes } from '@vaquero/contracts';
import { openDatabase } from '@vaquero/service';
import { sql } from 'drizzle-orm';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';
import { openWorkshop } from './workshop.ts';

const environments = 500;
const artifacts = 10_000;
const moves = 60;
const warmUps = 5;

const recipe = (text: string): string =>
  `steps: {pages: {run: mkdir out && echo ${text} > out/index.html}}\nserve: {site: out}\n`;

/** A rollback with 500 environments and 10,000 artifacts beside it, against the same with two and two. */
export async function benchManyHosts(here: Installation): Promise<readonly Row[]> {
  const project = 'slips';
  const params = { project, environment: 'staging' };
  const shop = await openWorkshop(here, project);
  for (const text of ['one', 'two']) {
    shop.commit({ 'vaquero.yaml': recipe(text) });
    await shop.push();
  }
  const few = await rollBack();
  await crowd(here);
  // Whatever is made has the whole table read anew: the crowd was put beside the service.
  await here.client.call(projectRoutes.makeProjectRoute, {
    body: { name: 'moorings', repository: { kind: 'hosted' } },
  });
  const many = await rollBack();
  return [
    {
      what: `a rollback beside ${environments} environments and ${artifacts} artifacts, p50`,
      ours: `${many.toFixed(1)} ms`,
      floor: `${few.toFixed(1)} ms: beside a few`,
      ratio: (many / few).toFixed(2),
      wanted: '≤ 1.3',
      good: many / few <= 1.3,
    },
  ];

  async function rollBack(): Promise<number> {
    const lanes = await here.client.call(environmentRoutes.lanesRoute, {
      params: { project },
      query: { days: 1 },
    });
    const staging = lanes.environments.find(({ name }) => name === 'staging');
    if (staging?.serves == null) throw new Error('staging serves nothing');
    let seen = { generation: staging.generation, artifact: staging.serves.artifact };
    let build = staging.serves.build;
    const times: number[] = [];
    for (let round = -warmUps; round < moves; round += 1) {
      build = build === 1 ? 2 : 1;
      const began = performance.now();
      const reply = await here.client.call(environmentRoutes.rollBackRoute, {
        params,
        body: { to: { build }, reason: 'bench', seen },
      });
      if (round >= 0) times.push(performance.now() - began);
      seen = { generation: reply.generation, artifact: reply.deploy.artifact };
    }
    return median(times);
  }
}

/** Puts a project of so many environments, builds and artifacts beside the others, made of what is there. */
async function crowd(here: Installation): Promise<void> {
  await here.client.call(projectRoutes.makeProjectRoute, {
    body: { name: 'crowd', repository: { kind: 'hosted' } },
  });
  const { db, close } = openDatabase(here.supervision.databaseUrl);
  const id = "(select id from projects where name = 'crowd')";
  const of = "(select id from projects where name = 'slips')";
  const columns = async (table: string, instead: Readonly<Record<string, string>>) => {
    const [rows] = await db.execute<{ Field: string }[]>(sql.raw(`show columns from ${table}`));
    const names = (rows as unknown as readonly { Field: string }[]).map(({ Field }) => Field);
    const picked = names.map((name) => instead[name] ?? `t.\`${name}\``).join(', ');
    return `insert into ${table} (${names.map((name) => `\`${name}\``).join(', ')}) select ${picked}`;
  };
  const run = (text: string) => db.execute(sql.raw(text));
  const build = {
    id: 'uuid()',
    project_id: id,
    number: 's.seq',
    artifact: "unhex(sha2(concat('crowd', s.seq), 256))",
  };
  await run(
    `${await columns('builds', build)} from (select * from builds where project_id = ${of} and number = 1) t join seq_1_to_${artifacts} s`,
  );
  const artifact = { project_id: 'b.project_id', digest: 'b.artifact', build_id: 'b.id' };
  await run(
    `${await columns('artifacts', artifact)} from (select * from artifacts where project_id = ${of} limit 1) t join builds b on b.project_id = ${id}`,
  );
  // Each serves what staging does.
  const environment = {
    id: 'uuid()',
    project_id: id,
    name: "concat('slip-', s.seq)",
    rule: "'preview'",
    ref: "concat('refs/heads/try/', s.seq)",
    place: '2',
  };
  await run(
    `${await columns('environments', environment)} from (select * from environments where project_id = ${of} and name = 'staging') t join seq_1_to_${environments} s`,
  );
  await run('analyze table builds, artifacts, environments');
  await close();
}
