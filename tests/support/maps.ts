import { type MapReply, mapRoutes } from '@vaquero/contracts';
import type { TestService } from './service.ts';

/** Sets a project's map to what comes of its text. */
export async function changeMap(
  service: TestService,
  project: string,
  change: (text: string) => string,
  ends: string[] = [],
): Promise<MapReply> {
  const params = { project };
  const { text, tag } = await service.operator.call(mapRoutes.showMapRoute, { params });
  return service.operator.call(mapRoutes.setMapRoute, {
    params,
    body: { text: change(text), reason: 'tried', ends },
    seen: tag,
  });
}

/** Has these findings alone stop the builds for staging. */
export async function stopsFor(
  service: TestService,
  project: string,
  rules: readonly string[],
): Promise<void> {
  await changeMap(service, project, (text) =>
    text.replace(
      /staging: \{follows: \{branch: main\}.*\}/,
      `staging: {follows: {branch: main}, stops: [${rules.join(', ')}]}`,
    ),
  );
}
