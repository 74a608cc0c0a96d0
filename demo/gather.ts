import { groupRoutes, memberRoutes, serviceRoutes } from '@vaquero/contracts';
import type { ProjectRole } from '@vaquero/core';
import type { Who } from './happening.ts';
import type { Stage } from './stage.ts';

const params = { project: 'timetable' };

const groups: readonly {
  readonly name: string;
  readonly shownAs: string;
  readonly people: readonly Who[];
  readonly role: ProjectRole;
}[] = [
  {
    name: 'release-desk',
    shownAs: 'Release desk',
    people: ['tomas', 'jonas', 'oda'],
    role: 'releaser',
  },
  { name: 'quay-crew', shownAs: 'Quay crew', people: ['wren', 'petra'], role: 'builder' },
  { name: 'harbour-office', shownAs: 'Harbour office', people: ['milo'], role: 'reader' },
];

/** Groups of the company's people, and the program that shows departures at a quay. */
export async function gather({ clients }: Stage, who: Who): Promise<void> {
  const client = clients[who];
  for (const { name: group, shownAs, people, role } of groups) {
    await client.call(groupRoutes.makeGroupRoute, { params: { group }, body: { shownAs } });
    for (const person of people)
      await client.call(groupRoutes.joinGroupRoute, { params: { group, person } });
    await client.call(memberRoutes.grantRoute, {
      params: { ...params, person: group },
      body: { role },
    });
  }
  const service = 'quay-board';
  await client.call(serviceRoutes.makeServiceRoute, {
    params: { ...params, service },
    body: { shownAs: 'Board at quay 2', role: 'reader' },
  });
  await client.call(serviceRoutes.makeServiceTokenRoute, {
    params: { ...params, service },
    body: { name: 'behind the glass', days: 60 },
  });
}
