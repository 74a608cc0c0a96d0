import { decideKeep, type Instant, ruleNamed } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { type EnvironmentRow, environmentsOf } from '../environments/environment-rows.ts';
import { setKept } from '../environments/family-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import { lockProject, type ProjectRow } from '../projects/project-rows.ts';

/** What somebody wants of an environment of a family: kept until a moment and why, or null for no longer. */
export type KeepWish = { readonly until: Instant; readonly reason: string } | null;

/**
 * Keeps one environment of a family, or lets it end as the map says. Said twice is said once.
 * Refuses: not-found, not-a-family, kept-too-long, too-many-kept.
 */
export async function keepPreview(
  deps: Deps,
  project: ProjectRow,
  { id, name }: Pick<EnvironmentRow, 'id' | 'name'>,
  wish: KeepWish,
  caller: Caller,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    const rows = await environmentsOf(tx, project.id);
    const row = rows.find((one) => one.id === id);
    if (row === undefined) return refused({ code: 'not-found', what: 'environment', name });
    const rule = ruleNamed(await mapOf(tx, project), row.rule);
    if (row.ref === null || rule?.kind !== 'each')
      return refused({ code: 'not-a-family', environment: name });
    const at = deps.clock();
    const doing = caller.doing;
    if (wish === null) {
      if (row.keptUntil === null) return;
      await setKept(tx, id, null, at);
      const facts = { environment: name };
      decide(tx, { at, kind: 'environment.kept-no-longer', project, doing, facts });
      return;
    }
    const others = rows.filter(
      (one) => one.id !== id && one.rule === rule.name && (one.keptUntil ?? 0) > at,
    );
    const asked = { until: wish.until, now: at, otherKept: others.length };
    const until = orRefuse(decideKeep(rule, asked));
    await setKept(tx, id, { until, by: caller.personId, why: wish.reason }, at);
    decide(tx, {
      at,
      kind: 'environment.kept',
      project,
      doing,
      why: wish.reason,
      facts: { environment: name, until },
    });
  });
}
