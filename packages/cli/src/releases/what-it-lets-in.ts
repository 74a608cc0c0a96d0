import { buildRoutes, findingsOf } from '@vaquero/contracts';
import { findingCounts, findingInWords } from '@vaquero/core';
import type { Context } from '../command.ts';
import { safe } from '../output.ts';

const mostNamed = 5;

/** What stands against a build, the worst first: seen before it goes on, not after. */
export async function whatItLetsIn(
  context: Context,
  project: string,
  build: number,
): Promise<readonly string[]> {
  const { evidence } = await context.client.call(buildRoutes.showBuildRoute, {
    params: { project, build },
  });
  const findings = findingsOf(evidence);
  if (findings.length === 0) return ['Nothing was found against it.'];
  const left = findings.length - mostNamed;
  return [
    `It lets in ${findingCounts(findings)}:`,
    ...findings
      .slice(0, mostNamed)
      .map((one) => `  ${one.severity.padEnd(9)}${safe(findingInWords(one))}`),
    ...(left > 0 ? [`  and ${left} more: vaquero build ${project} ${build}`] : []),
  ];
}
