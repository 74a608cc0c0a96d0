import assert from 'node:assert/strict';
import { buildOnSchedule, takeLease } from '@vaquero/service';
import type { TestService } from './service.ts';

/** Builds what schedules make due, as the service's own loop does. */
export async function onSchedule({ deps }: TestService): Promise<void> {
  const lease = await takeLease(deps.db, 'schedules', deps.instance);
  await buildOnSchedule(deps, lease ?? assert.fail('another process holds the lease'));
}
