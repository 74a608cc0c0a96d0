import { type EdgeOrder, type RoutingTable, roleRoutes } from '@vaquero/contracts';
import { changesBetween } from '@vaquero/core';

type Whole = Extract<EdgeOrder, { order: 'table' }>;
type Changes = Extract<EdgeOrder, { order: 'changes' }>;

/**
 * What of a table is another thing than in the one that a stream was sent last: a move changes one host, a build that passed
 * names one artifact, however many there are. Both orders are whole.
 */
export function tableChanges(before: Whole, { table, artifacts, list, lookKey }: Whole): Changes {
  const { hosts, ended, ...rest } = table;
  const isSame = list === before.list;
  return {
    order: 'changes',
    from: before.table.revision,
    table: rest,
    hosts: changesBetween(before.table.hosts, hosts),
    ended: changesBetween(before.table.ended, ended),
    artifacts: isSame
      ? null
      : changesBetween(byName(before.artifacts ?? []), byName(artifacts ?? []), isNamedAlike),
    list,
    lookKey,
  };
}

const byName = roleRoutes.artifactsByName;
type Artifacts = RoutingTable['artifacts'];

/** Of one name: build, project and bytes are the same. */
function isNamedAlike(one: Artifacts[number], other: Artifacts[number]): boolean {
  return one.commit === other.commit && one.admits === other.admits;
}
