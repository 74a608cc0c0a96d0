import { evidenceRoutes } from '@vaquero/contracts';
import { type InspectionRule, inspectionRules } from '@vaquero/core';
import { type Context, give, Misuse } from '../command.ts';
import { table } from '../output.ts';

/** Shows what the inspection looks for and which of it stops a build; with rules, sets those that do. */
export async function showInspection(
  context: Context,
  project: string,
  holding: readonly string[] | undefined,
): Promise<void> {
  const params = { project };
  const shown = await context.client.call(evidenceRoutes.showInspectionRoute, { params });
  const reply =
    holding === undefined
      ? shown
      : await context.client.call(evidenceRoutes.setInspectionRoute, {
          params,
          body: { holding: holding.map(ruleNamed) },
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
}

function ruleNamed(name: string): InspectionRule {
  const rules = Object.keys(inspectionRules) as InspectionRule[];
  const rule = rules.find((each) => each === name);
  if (rule === undefined) throw new Misuse(`"${name}" is no rule; there are ${rules.join(', ')}.`);
  return rule;
}
