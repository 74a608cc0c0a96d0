import { holdingByDefault, type InspectionRule } from '../evidence/inspection-rules.ts';
import { type DeliveryMap, ruleNamed } from './delivery-map.ts';

/**
 * The findings that stop a build: those of every environment that wants it together, since an artifact that one of them
 * would not take goes to none. A build that no rule wants is held to the usual ones.
 * `rules` are the names of the rules that want it.
 */
export function stopsOf(map: DeliveryMap, rules: readonly string[]): ReadonlySet<InspectionRule> {
  const wanting = rules.flatMap((rule) => ruleNamed(map, rule) ?? []);
  return new Set(
    wanting.length === 0 ? holdingByDefault : wanting.flatMap(({ stops }) => [...stops]),
  );
}
