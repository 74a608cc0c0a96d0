import { nameOfRef, pullRequestOf } from '../refs/pull-request.ts';
import { branchOf } from '../refs/ref-name.ts';
import type { RefSeen } from './check-map.ts';
import { type DeliveryMap, type EnvironmentRule, ruleInWords, sourceOf } from './delivery-map.ts';
import { wants } from './destinations.ts';

/** Heights of the drawing, in pixels. */
const rowHeight = 19;
const headHeight = 26;
const laneHeight = 66;
const mostInGroup = 5;

/** A ref as it is drawn, or how many more there are. */
export interface DrawnRef {
  readonly name: string;
  readonly ref: string | null;
  /** Where its row has its middle. */
  readonly y: number;
  /** Whether a rule takes it. */
  readonly goes: boolean;
}

/** A rule as it is drawn: from a bracket around its refs to its environment. */
export interface DrawnRule {
  readonly name: string;
  readonly kind: EnvironmentRule['kind'];
  readonly says: string;
  readonly matchCount: number;
  /** A bracket around each run of rows that it takes; none where nothing matches. */
  readonly brackets: readonly { readonly top: number; readonly bottom: number }[];
  /** Which of the upright lines is its own, from the left. */
  readonly column: number;
  /** Where its environment has its middle. */
  readonly y: number;
  /** Of one that accepts: where the environment below has its middle. */
  readonly acceptsAt: number | null;
}

/** A map as it is drawn: refs on the left in groups, environments on the right in lane order. */
export interface DrawnMap {
  readonly groups: readonly {
    readonly title: string;
    readonly count: number;
    readonly y: number;
    readonly refs: readonly DrawnRef[];
  }[];
  readonly rules: readonly DrawnRule[];
  readonly height: number;
}

/** Places a map's refs, rules and environments. Refs that a rule takes stand first in their group. */
export function drawMap(map: DeliveryMap, heads: readonly RefSeen[]): DrawnMap {
  const taken = (one: RefSeen): boolean =>
    map.environments.some((rule) => wants(rule, one.ref, one.into));
  const kinds: readonly (readonly [string, (one: RefSeen) => boolean])[] = [
    ['Branches', ({ ref }) => branchOf(ref) !== undefined],
    ['Tags', ({ ref }) => branchOf(ref) === undefined && pullRequestOf(ref) === undefined],
    ['Pull requests', ({ ref }) => pullRequestOf(ref) !== undefined],
  ];
  let top = 0;
  const groups = kinds.map(([title, isOne]) => {
    const own = heads.filter(isOne);
    const inOrder = [...own.filter(taken), ...own.filter((one) => !taken(one))];
    const y = top + headHeight / 2;
    const shown = inOrder.slice(0, mostInGroup).map((one, place) => ({
      name: nameOfRef(one.ref),
      ref: one.ref as string | null,
      y: top + headHeight + rowHeight * (place + 0.5),
      goes: taken(one),
    }));
    const left = own.length - shown.length;
    const more =
      left > 0 || own.length === 0
        ? [
            {
              name: own.length === 0 ? 'none yet' : `and ${left} more`,
              ref: null,
              y: top + headHeight + rowHeight * (shown.length + 0.5),
              goes: left > 0,
            },
          ]
        : [];
    const refs = [...shown, ...more];
    top += headHeight + rowHeight * refs.length;
    return { title, count: own.length, y, refs };
  });
  const rows = new Map(groups.flatMap(({ refs }) => refs.map((one) => [one.ref, one.y] as const)));
  const laneY = (place: number): number => laneHeight * (place + 0.5);
  const rules = map.environments.map((rule, place): DrawnRule => {
    const matching = heads.filter(({ ref, into }) => wants(rule, ref, into));
    const ys = matching.flatMap(({ ref }) => rows.get(ref) ?? []);
    const source = map.environments.findIndex(({ name }) => name === sourceOf(rule));
    return {
      name: rule.name,
      kind: rule.kind,
      says: ruleInWords(rule),
      matchCount: matching.length,
      brackets: runsOf(ys),
      column: place,
      y: laneY(place),
      acceptsAt: source === -1 ? null : laneY(source),
    };
  });
  return { groups, rules, height: Math.max(top, laneHeight * map.environments.length) };
}

/** Rows that stand below each other without another between them, as one bracket each. */
function runsOf(ys: readonly number[]): DrawnRule['brackets'] {
  const runs: { top: number; bottom: number }[] = [];
  for (const y of ys.toSorted((one, other) => one - other)) {
    const last = runs.at(-1);
    const [top, bottom] = [y - rowHeight / 2 + 2, y + rowHeight / 2 - 2];
    if (last !== undefined && top - last.bottom < rowHeight / 2) last.bottom = bottom;
    else runs.push({ top, bottom });
  }
  return runs;
}
