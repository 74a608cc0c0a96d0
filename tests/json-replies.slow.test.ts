import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  type AnyRoute,
  buildRoutes,
  edgeRoutes,
  environmentRoutes,
  evidenceRoutes,
  peopleRoutes,
  projectRoutes,
  recipeRoutes,
  runnerRoutes,
  storeRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import { execa } from 'execa';
import { z } from 'zod';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const bundle = join(import.meta.dirname, '../packages/cli/dist/vaquero.mjs');

test('with --json every reading command writes its reply as the service sent it, and nothing else', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  const commands: readonly (readonly [readonly string[], AnyRoute])[] = [
    [['live'], environmentRoutes.liveRoute],
    [['history', 'timetable'], environmentRoutes.historyRoute],
    [['builds', 'timetable'], buildRoutes.listBuildsRoute],
    [['find', 'timetable', 'one'], buildRoutes.findBuildsRoute],
    [['build', 'timetable', '1'], buildRoutes.showBuildRoute],
    [['log', 'timetable', '1', '--find', 'out'], buildRoutes.logLinesRoute],
    [['projects'], projectRoutes.listProjectsRoute],
    [['recipe', 'timetable'], recipeRoutes.showRecipeRoute],
    [['variables', 'timetable'], variableRoutes.listVariablesRoute],
    [['inspection', 'timetable'], evidenceRoutes.showInspectionRoute],
    [['who'], peopleRoutes.meRoute],
    [['tokens'], peopleRoutes.listTokensRoute],
    [['runners'], runnerRoutes.listRunnersRoute],
    [['edges'], edgeRoutes.listEdgesRoute],
    [['sweep'], storeRoutes.sweepRoute],
  ];
  for (const [args, route] of commands) {
    const end = await execa(process.execPath, [bundle, ...args, '--json'], {
      env: {
        PATH: process.env.PATH ?? '',
        VAQUERO_ADDRESS: service.address,
        VAQUERO_TOKEN: service.operatorSecret,
        XDG_CONFIG_HOME: join(service.state, 'home'),
      },
      extendEnv: false,
      reject: false,
      stdin: 'ignore',
    });
    const said = `vaquero ${args.join(' ')}`;
    assert.deepEqual([end.exitCode, end.stderr], [0, ''], said);
    // What the client knows of itself stands beside the reply, under a name that no reply has.
    const { client: _, ...reply } = JSON.parse(end.stdout);
    const read = route.reply.safeParse(reply);
    assert.ok(read.success, `${said}: ${read.error?.message}`);
    // Nothing was left out or renamed on the way: what the contract reads is what was written.
    assert.deepEqual(z.encode(route.reply, read.data), reply, said);
  }
});
