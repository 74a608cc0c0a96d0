import { evidenceRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { table } from '../output.ts';

/** Shows what the inspection looks for and which of it stops a build; `stops` in the map says that. */
export const inspection = command({
  name: 'inspection',
  says: 'what artifacts are inspected for, and what stops a build',
  examples: ['inspection timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const params = { project };
    const reply = await context.client.call(evidenceRoutes.showInspectionRoute, { params });
    give(context, reply, ({ rules }) =>
      context.io.out(
        table(
          context.io,
          ['rule', 'severity', 'stops builds for', 'what to do'],
          rules.map((rule) => [rule.rule, rule.severity, rule.stops.join(', '), rule.cure]),
          3,
        ),
      ),
    );
  },
});
