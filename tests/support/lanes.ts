import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { until } from './place.ts';
import type { TestService } from './service.ts';

const params = { project: 'timetable' };

// What the environments of timetable are and serve, awaited.

export const environments = async (service: TestService): Promise<readonly EnvironmentSeen[]> => {
  const lanes = await service.operator.call(environmentRoutes.lanesRoute, {
    params,
    query: { days: 1 },
  });
  return lanes.environments;
};
export const serves = (service: TestService, name: string, build: number) =>
  until(
    `${name} serves build ${build}`,
    async () => {
      const found = (await environments(service)).find((one) => one.name === name);
      return found?.serves?.build === build && found.serves.confirmedAt !== null && found;
    },
    { seen: () => environments(service) },
  );
export const names = async (service: TestService): Promise<readonly string[]> =>
  (await environments(service)).map(({ name }) => name);
export const gone = (service: TestService, name: string) =>
  until(`${name} has ended`, async () => !(await names(service)).includes(name));
