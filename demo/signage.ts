import { setTimeout as pause } from 'node:timers/promises';
import { environmentRoutes, mapRoutes, projectRoutes } from '@vaquero/contracts';
import type { Who } from './happening.ts';
import type { Stage } from './stage.ts';

const project = 'signage';

/** The boards on the quays: a second project of the same repository, which somebody at the desk lets new builds into. */
const map = `# A board that shows nonsense is seen by everybody on the quay: nothing goes there by itself.
map: signage
format: 1
lanes: [boards]
environments:
  boards:
    follows: {branch: main}
    enters: on-word
    may: {promote: [jonas, ines]}
`;

/** Makes the project, and says in its map that nothing enters by itself. */
export async function makeSignage({ clients }: Stage, who: Who): Promise<void> {
  const client = clients[who];
  await client.call(projectRoutes.makeProjectRoute, {
    body: {
      name: project,
      repository: { kind: 'shared', project: 'timetable' },
      folder: 'signage',
    },
  });
  const { tag } = await client.call(mapRoutes.showMapRoute, { params: { project } });
  await client.call(mapRoutes.setMapRoute, {
    params: { project },
    body: {
      text: map,
      reason: 'Somebody looks at the boards before the quay does.',
      ends: ['production', 'staging'],
    },
    seen: tag,
  });
}

/** Lets in what is offered to the boards, once it is. */
export async function letIn({ clients }: Stage, who: Who): Promise<void> {
  const params = { project, environment: 'boards' };
  for (let tried = 0; tried < 3000; tried += 1) {
    const { waits, generation, serves } = await clients[who].call(
      environmentRoutes.showEnvironmentRoute,
      { params },
    );
    if (waits.kind === 'offer') {
      const seen = { generation, artifact: serves?.artifact ?? null };
      await clients[who].call(environmentRoutes.letInRoute, {
        params,
        body: { build: waits.build, seen },
      });
      return;
    }
    await pause(15);
  }
  throw new Error('nothing was offered to the boards of the demo');
}
