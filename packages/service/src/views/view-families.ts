import type { EnvironmentSeen } from '@vaquero/contracts';
import { type DeliveryMap, endOf, isEndingSoon, nameOfRef, ruleNamed } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';
import { lastingOf } from '../environments/family-rows.ts';
import { peopleShownAs } from '../people/people-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { ownersOf } from './owners.ts';

/** What the environments of families are for, whose they are, and when they end if nothing happens; by id. */
export async function familiesOf(
  deps: Deps,
  project: ProjectRow,
  map: DeliveryMap,
  rows: readonly EnvironmentRow[],
): Promise<ReadonlyMap<string, EnvironmentSeen['family']>> {
  const own = rows.flatMap((row) => (row.ref === null ? [] : [{ ...row, ref: row.ref }]));
  if (own.length === 0) return new Map();
  const [owners, keepers] = await Promise.all([
    ownersOf(
      deps.db,
      project,
      own.map(({ ref }) => ref),
    ),
    peopleShownAs(
      deps.db,
      own.flatMap(({ keptBy }) => keptBy ?? []),
    ),
  ]);
  const now = deps.clock();
  return new Map(
    own.map((row) => {
      const rule = ruleNamed(map, row.rule);
      const lasting = lastingOf(row);
      const ends = rule?.kind === 'each' ? rule.ends : null;
      const end = ends === null ? null : endOf(ends, lasting);
      const isKept = lasting.keptUntil !== null && lasting.keptUntil > now;
      return [
        row.id,
        {
          rule: row.rule,
          ref: row.ref,
          of: nameOfRef(row.ref),
          endsAt: end?.at ?? null,
          endsOf: end?.because ?? null,
          endsSoon: ends !== null && isEndingSoon(ends, lasting, now),
          kept:
            isKept && lasting.keptUntil !== null
              ? {
                  until: lasting.keptUntil,
                  by: keepers.get(row.keptBy ?? '') ?? 'somebody',
                  why: row.keptWhy ?? '',
                }
              : null,
          owner: owners.get(row.ref) ?? null,
        },
      ] as const;
    }),
  );
}
