import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from 'playwright-core';

const auditor = readFileSync(createRequire(import.meta.url).resolve('axe-core'), 'utf8');

/** What the auditor says of a page: rule, and where. */
interface Violation {
  readonly id: string;
  readonly nodes: readonly { readonly html: string; readonly failureSummary: string }[];
}

/** Audits what a page shows now against WCAG 2.1, levels A and AA. */
export async function faultsOf(page: Page): Promise<readonly string[]> {
  await page.evaluate(() => document.fonts.ready);
  // Evaluated by the debugger, which the page's own policy against foreign scripts does not bind.
  await page.evaluate(auditor);
  const violations = await page.evaluate(async (): Promise<readonly Violation[]> => {
    const axe = Reflect.get(window, 'axe') as {
      readonly run: (options: object) => Promise<{ readonly violations: readonly Violation[] }>;
    };
    const tags = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'];
    return (await axe.run({ runOnly: { type: 'tag', values: tags } })).violations;
  });
  return violations.flatMap(({ id, nodes }) =>
    nodes.map((node) => `${id}: ${node.html.slice(0, 160)} ${node.failureSummary}`),
  );
}
