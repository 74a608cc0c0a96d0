import { evidenceRoutes } from '@vaquero/contracts';
import { type InspectionRule, inspectionRules } from '@vaquero/core';
import { command, give, Misuse } from '../command.ts';
import { table } from '../output.ts';

/** Shows what the inspection looks for and which of it stops a build; with rules, sets those that do. */
export const inspection = command({
  name: 'inspection',
  says: 'what artifacts are inspected for, and what stops a build',
  examples: ['inspection timetable', 'inspection timetable --stops broken-asset'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--stops <rules...>', 'the rules whose findings stop a build'),
  run: async (context, [project], { stops }) => {
    const params = { project };
    const shown = await context.client.call(evidenceRoutes.showInspectionRoute, { params });
    const reply =
      stops === undefined
        ? shown
        : await context.client.call(evidenceRoutes.setInspectionRoute, {
            params,
            body: { holding: stops.map(ruleNamed) },
            seen: shown.version,
          });
    give(context, reply, ({ rules }) =>
      context.io.out(
        table(
          context.io,
          ['rule', 'severity', 'stops a build', 'what to do'],
          rules.map((rule) => [rule.rule, rule.severity, rule.holds ? 'yes' : '', rule.cure]),
          3,
        ),
      ),
    );
  },
});

function ruleNamed(name: string): InspectionRule {
  const rules = Object.keys(inspectionRules) as InspectionRule[];
  const rule = rules.find((each) => each === name);
  if (rule === undefined) throw new Misuse(`"${name}" is no rule; there are ${rules.join(', ')}.`);
  return rule;
}
