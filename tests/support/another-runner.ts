import type { TestContext } from 'node:test';
import { runnerRoutes } from '@vaquero/contracts';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import { makeLog } from '@vaquero/service';
import { atEnd, temporaryFolder, uidsOfTests } from './place.ts';
import type { TestService } from './service.ts';

/** What a runner is told that never hears of an api: it tries its walls, and its slot, before it asks for work. */
export function runnerAlone(state: string): Readonly<Record<string, string>> {
  return {
    VAQUERO_STATE: state,
    VAQUERO_API: 'http://127.0.0.1:9',
    VAQUERO_RUNNER_TOKEN: 'x'.repeat(30),
    VAQUERO_RUNNER_SLOTS: '1',
    VAQUERO_RUNNER_UIDS: uidsOfTests(),
  };
}

/** A runner as it runs on another machine: a state directory, a token and a store of its own. */
export async function anotherRunner(
  t: TestContext,
  service: TestService,
  name: string,
  more: Readonly<Record<string, string>> = {},
) {
  const { token } = await service.operator.call(runnerRoutes.addRunnerRoute, { body: { name } });
  const state = temporaryFolder(t);
  const runner = await startRunner({
    config: readRunnerConfig({
      VAQUERO_API: service.address,
      VAQUERO_STATE: state,
      VAQUERO_RUNNER_TOKEN: token,
      VAQUERO_RUNNER_UIDS: uidsOfTests(),
      VAQUERO_STORE: 'elsewhere',
      ...more,
    }),
    log: makeLog('test', 'fatal'),
  });
  let runs = true;
  const stop = async (): Promise<void> => {
    if (runs) await runner.stop();
    runs = false;
  };
  atEnd(t, stop);
  return { state, token, stop };
}
