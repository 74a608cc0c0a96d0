import {
  admissionRoutes,
  peopleRoutes,
  previewRoutes,
  pullRequestRoutes,
} from '@vaquero/contracts';
import type { Happening } from './happening.ts';
import { buildAfter, newestBuild, type Stage } from './stage.ts';

const project = 'timetable';

/** What people do with previews, and with what programs come in by. */
export async function lookAfter(
  stage: Stage,
  happening: Extract<Happening, { lookAfter: string }>,
): Promise<void> {
  const client = stage.clients[happening.who];
  const { lookAfter: name } = happening;
  switch (happening.act) {
    case 'verdict': {
      const params = { project, pullRequest: name };
      const { head } = await client.call(pullRequestRoutes.showPullRequestRoute, { params });
      if (head === null) throw new Error(`${name} of the demo has no commit`);
      const { verdict, says } = happening;
      const body = { commit: head.commit, verdict, says };
      await client.call(pullRequestRoutes.giveVerdictRoute, { params, body });
      return;
    }
    case 'keep':
      await client.call(previewRoutes.keepPreviewRoute, {
        params: { project, environment: name },
        body: { until: happening.until(), reason: happening.reason },
      });
      return;
    case 'lend':
      await client.call(admissionRoutes.lendRoute, { params: { project, environment: name } });
      return;
    case 'give-word': {
      const params = { project, pullRequest: name };
      const { head } = await client.call(pullRequestRoutes.showPullRequestRoute, { params });
      if (head === null) throw new Error(`${name} of the demo has no commit`);
      const before = await newestBuild(stage);
      const body = { commit: head.commit };
      await client.call(pullRequestRoutes.giveWordRoute, { params, body });
      await buildAfter(stage, before, 'ended');
      return;
    }
    case 'make-token':
      await client.call(peopleRoutes.makeTokenRoute, {
        body: {
          name,
          scope: { projects: [project], role: 'releaser', environments: ['staging', 'preview'] },
        },
      });
  }
}
