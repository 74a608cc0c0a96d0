import { ruleAfter } from './check-map.ts';
import type { DeliveryMap } from './delivery-map.ts';
import { type Deed, deedsOf, type Member } from './reach.ts';

/** What somebody may do to the environments of a rule by one map and not by another. */
export interface RightsMove {
  readonly name: string;
  readonly shownAs: string;
  /** By the name that it has afterwards. */
  readonly rule: string;
  readonly gains: readonly Deed[];
  readonly loses: readonly Deed[];
}

/**
 * Whose rights widen or narrow if a map takes another's place: over the rules that both have. What is new or gone is said
 * as such. `home` is the project whose roles say who pushes; null where the repository is not hosted here.
 */
export function compareRights(
  before: DeliveryMap,
  after: DeliveryMap,
  {
    project,
    members,
    home,
  }: {
    readonly project: string;
    readonly members: readonly Member[];
    readonly home: string | null;
  },
): readonly RightsMove[] {
  const both = before.environments.flatMap((old, place) => {
    const rule = ruleAfter(before, after, old.name);
    return rule === undefined ? [] : [{ old, place, rule, next: after.environments.indexOf(rule) }];
  });
  return both.flatMap(({ old, place, rule, next }) =>
    members.flatMap((member): readonly RightsMove[] => {
      const had = deedsOf(old, place, member, project, home);
      const has = deedsOf(rule, next, member, project, home);
      const gains = has.filter((deed) => !had.includes(deed));
      const loses = had.filter((deed) => !has.includes(deed));
      const { name, shownAs } = member;
      return gains.length + loses.length === 0
        ? []
        : [{ name, shownAs, rule: rule.name, gains, loses }];
    }),
  );
}
